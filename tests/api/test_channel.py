"""The live channel's messages: one schema for both sides, and words for what is not understood."""

from __future__ import annotations

import json

import pytest

from leanlattice.api.app import create_app
from leanlattice.api.channel import Dropped, Idle, Preview, Settle, read_asked, schemas
from leanlattice.api.settings import Settings


@pytest.mark.parametrize(
    ("plain", "message"),
    [
        ({"type": "settle"}, Settle()),
        ({"type": "settle", "more": 1}, Settle()),
        ({"type": "dropped", "keys": ["a"]}, Dropped(keys=["a"])),
    ],
)
def test_messages_are_read(plain, message):
    assert read_asked(plain) == message


def test_an_edit_is_read_only_where_it_is_applied():
    """What is wrong with it is told of the preview, so that the window waits no longer for it."""
    found = read_asked({"type": "preview", "edit": {"op": "nonsense"}, "number": 3})
    assert isinstance(found, Preview)
    assert found.edit == {"op": "nonsense"}


@pytest.mark.parametrize(
    ("plain", "words"),
    [
        ({"type": "nonsense"}, "no message of type “nonsense”"),
        ({"type": "restart"}, "clause"),
        ({"type": "dropped", "keys": 3}, "keys"),
        ({"type": "preview", "edit": {}, "number": "x"}, "number"),
        ({}, "discriminator"),
        ([], "dictionary"),
        ("settle", "dictionary"),
        (None, "dictionary"),
    ],
)
def test_what_is_no_message_is_refused_in_words(plain, words):
    with pytest.raises(ValueError, match=words):
        read_asked(plain)


def test_the_document_of_the_interface_tells_of_all_messages(tmp_path):
    document = create_app(Settings(data=tmp_path / "data")).openapi()
    known = document["components"]["schemas"]
    assert set(schemas()) <= set(known)
    for name, count in (("Said", 10), ("Asked", 6)):
        every = [ref["$ref"].rsplit("/", 1)[1] for ref in known[name]["oneOf"]]
        assert len(every) == count
        kinds = [known[one]["properties"]["type"]["const"] for one in every]
        assert len(set(kinds)) == count
    # Nothing refers to what is not there.
    for ref in json.dumps(known).split('"#/components/schemas/')[1:]:
        assert ref.split('"')[0] in known


def test_what_is_said_is_as_short_as_it_was():
    assert json.loads(Idle(seconds=0.5, run=3).model_dump_json()) == {
        "type": "idle",
        "run": 3,
        "preview": None,
        "seconds": 0.5,
        "cancelled": False,
    }
