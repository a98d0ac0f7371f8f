"""Files are opened once and remembered, the ones that could not be read as well."""

import pytest

from leanlattice.core.shaping.brought import ReadProblem
from leanlattice.store import files
from leanlattice.store.files import OPENED_KEPT, REFUSED_FOR, SLOW, opener


class Reading:
    """Counts what is read, takes ``seconds`` for it, and refuses what is called bad."""

    def __init__(self, monkeypatch, seconds):
        self.now, self.seconds, self.read = 0.0, seconds, []
        monkeypatch.setattr(files.time, "monotonic", lambda: self.now)

    def __call__(self, wanted, name, content):
        self.read.append(content)
        self.now += self.seconds
        if content == b"bad":
            raise ReadProblem(f"“{name}” cannot be read.")
        return (wanted, content)


def test_a_file_is_read_once_until_others_have_come(monkeypatch):
    reading = Reading(monkeypatch, 5.0)
    open_file = opener(str.encode, reading)
    for _ in range(3):
        assert open_file("mesh", "one", "a.stl") == ("mesh", b"one")
    assert reading.read == [b"one"]
    for k in range(OPENED_KEPT):
        open_file("mesh", f"other {k}", "b.stl")
    open_file("mesh", "one", "a.stl")
    assert reading.read.count(b"one") == 2


@pytest.mark.parametrize(("seconds", "tries"), [(SLOW / 2, 3), (SLOW * 2, 1)])
def test_what_took_long_and_could_not_be_read_is_refused_at_once(monkeypatch, seconds, tries):
    reading = Reading(monkeypatch, seconds)
    open_file = opener(str.encode, reading)
    for _ in range(3):
        with pytest.raises(ReadProblem, match=r"a\.stl"):
            open_file("mesh", "bad", "a.stl")
    assert len(reading.read) == tries
    reading.now += REFUSED_FOR
    with pytest.raises(ReadProblem):
        open_file("mesh", "bad", "a.stl")
    assert len(reading.read) == tries + 1
