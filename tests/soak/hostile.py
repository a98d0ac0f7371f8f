"""What a hostile person sends: requests, frames and files, some by hand and most by chance."""

from __future__ import annotations

import io
import itertools
import json
import random
from collections.abc import Iterator
from typing import Any

import ezdxf
import numpy as np
from PIL import Image

VALUES: list[Any] = [
    None, True, -1, 0, 2**63, -(2**63) - 1, 10**400, 1e308, -0.0, "", " ", "\u0000", "\u202e",
    "a" * 5000, "../../etc/passwd", "${7*7}", "=1+1", "'; DROP TABLE projects; --", [], {}, [[]],
    {"a": {"b": {}}}, "NaN", "1e999",
]  # fmt: skip
WORDS = [b"NaN", b"Infinity", b"-Infinity", b"1e999", b'"\\ud800"', b"1" * 5000, b"[" * 3000,
         b'{"a":' * 2000, b"\xff\xfe", b"\x00", b"nul", b"{}{}"]  # fmt: skip
OPERATIONS = ["set", "add", "remove", "move", "rename", "dimension", "off", "explode", "", None]
PATHS = [
    "/api/projects/{p}/edits", "/api/projects/{p}/statement", "/api/projects/{p}/outcomes",
    "/api/projects/{p}/history/undo", "/api/projects/{p}/schedules/{x}", "/api/projects/{p}/pack",
    "/api/projects/{p}/states/{x}", "/api/projects/{p}/sheets/{x}.svg", "/api/projects/{x}",
    "/api/projects/{p}/picture", "/api/projects/import", "/api/files", "/api/files/{x}",
    "/api/guide/{x}.png", "/api/table", "/api/table/jobs/{x}", "/api/{x}", "/assets/{x}", "/{x}",
    "/api/projects/{p}/settings", "/api/projects/{p}/name", "/api/projects",
]  # fmt: skip
SEGMENTS = ["..%2f..%2fetc%2fpasswd", "%00", "-1", "9" * 30, "0" * 12, "a" * 3000, "%F0%9F%92%A9",
            "..", "%2e%2e/", "con", "NaN", "1e5", "\u202e", "%ZZ"]  # fmt: skip
HEADERS = [
    {"origin": "http://["}, {"origin": "null"}, {"host": "elsewhere.example"}, {"host": ""},
    {"content-type": "application/xml"}, {"content-type": "multipart/form-data; boundary="},
    {"range": "bytes=-1"}, {"if-none-match": "*" * 4000}, {"expect": "100-continue"}, {},
]  # fmt: skip


def hostile_requests(
    project: str, count: int, seed: int
) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """Methods, paths and what else the client is given."""
    chance = random.Random(seed)
    for _ in range(count):
        method = chance.choice(["GET", "POST", "POST", "POST", "PUT", "DELETE", "PATCH", "BREW"])
        path = chance.choice(PATHS).format(p=project, x=chance.choice(SEGMENTS))
        if method == "DELETE":
            path = path.replace(project, "0" * 12)
        headers = dict(chance.choice(HEADERS)) if chance.random() < 0.3 else {}
        how: dict[str, Any] = {"headers": headers}
        if method in ("POST", "PUT", "PATCH"):
            how |= _body(chance)
        yield method, path, how


def _body(chance: random.Random) -> dict[str, Any]:
    kind = chance.randrange(4)
    if kind == 0:
        name = chance.choice(["a.json", "../../a.json", "\u202e.stl", "a" * 300, "a.svg"])
        return {"files": {"file": (name, chance.choice(WORDS) * chance.randint(0, 50))}}
    text = json.dumps({"edit": _edit(chance), "base": chance.choice([0, 1, *VALUES])}).encode()
    if kind == 1:
        at = chance.randrange(len(text))
        text = text[:at] + chance.choice(WORDS) + text[at + chance.randint(0, 8) :]
    elif kind == 2:
        text = chance.choice(WORDS)
    kinds = ["application/json", "application/json; charset=utf-7", "text/plain"]
    return {"content": text, "headers": {"content-type": chance.choice(kinds)}}


def _edit(chance: random.Random) -> Any:
    if chance.random() < 0.1:
        return chance.choice(VALUES)
    out: dict[str, Any] = {"op": chance.choice(OPERATIONS)}
    for name in chance.sample(["clause", "name", "value", "at", "to", "dimension", "off"], 4):
        out[name] = chance.choice([*VALUES, {"id": "a", "kind": "dome", "values": {"span": 1e400}}])
    return out


def hostile_frames(count: int, seed: int) -> Iterator[str | bytes]:
    """What is sent down a live channel."""
    chance = random.Random(seed)
    types = ["preview", "settle", "restart", "cancel", "dropped", "go-on", "", None, 7]
    for _ in range(count):
        message = {"type": chance.choice(types), "edit": _edit(chance),
                   "number": chance.choice(VALUES), "clause": chance.choice(VALUES),
                   "keys": chance.choice(VALUES)}  # fmt: skip
        text = json.dumps(message)
        choice = chance.random()
        if choice < 0.2:
            yield chance.randbytes(chance.randint(0, 300))
        elif choice < 0.5:
            at = chance.randrange(len(text))
            word = chance.choice(WORDS).decode("latin-1")
            yield text[:at] + word + text[at:]
        else:
            yield text


def hostile_files(count: int, seed: int) -> Iterator[tuple[str, str, bytes]]:
    """Names, the kind of clause that reads them, and contents: half by hand, half by chance from
    files that are well."""
    chance = random.Random(seed)
    made = itertools.cycle(by_hand())
    sound = well()
    for k in range(count):
        if k % 2 == 0:
            yield next(made)
            continue
        name, kind, content = chance.choice(sound)
        yield name, kind, spoiled(content, chance)


def spoiled(content: bytes, chance: random.Random) -> bytes:
    """A file with something wrong in it."""
    out = bytearray(content)
    for _ in range(chance.randint(1, 6)):
        at, how = chance.randrange(len(out) + 1), chance.randrange(5)
        if how == 0:
            del out[at:]
        elif how == 1 and at < len(out):
            out[at] ^= 1 << chance.randrange(8)
        elif how == 2:
            out[at:at] = chance.choice(WORDS)
        elif how == 3:
            out[at:at] = out[: chance.randint(0, 400)] * chance.randint(1, 30)
        else:
            out[at : at + chance.randint(1, 50)] = b""
        if not out:
            out += b"x"
    return bytes(out)


def well() -> list[tuple[str, str, bytes]]:
    """Files of each kind with nothing wrong."""
    corners = ["0", "0", "0", "1", "0", "0", "1", "1", "0", "0", "1", "0"]
    obj = "".join(f"v {corners[i]} {corners[i + 1]} 0\n" for i in range(0, 12, 3)) + "f 1 2 3 4\n"
    facet = "facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\n"
    stl = f"solid a\n{facet}endloop\nendfacet\nendsolid a\n"
    facets = np.zeros(8, [("n", "<f4", 3), ("c", "<f4", (3, 3)), ("r", "<u2")])
    facets["c"] = np.random.default_rng(1).random((8, 3, 3))
    binary = b"\0" * 80 + np.uint32(8).tobytes() + facets.tobytes()
    ply = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
    ply += "property float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
    ply += "0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"
    svg = '<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10">'
    svg += '<path d="M1 1L9 1L9 9L1 9Z"/><circle cx="5" cy="5" r="2"/></svg>'
    drawing, dxf = ezdxf.new(), io.StringIO()
    drawing.modelspace().add_lwpolyline([(0, 0), (5, 0), (5, 5)], close=True)
    drawing.write(dxf)
    csv = "".join(f"{x},{y},{x * y / 9}\n" for x in range(4) for y in range(4))
    picture = io.BytesIO()
    Image.new("L", (8, 8), 90).save(picture, "PNG")
    return [
        ("a.obj", "import", obj.encode()), ("a.stl", "import", stl.encode()),
        ("b.stl", "import", binary), ("a.ply", "import", ply.encode()),
        ("a.svg", "bring-curves", svg.encode()), ("a.dxf", "bring-curves", dxf.getvalue().encode()),
        ("a.csv", "ground", csv.encode()), ("a.png", "underlay", picture.getvalue()),
    ]  # fmt: skip


def by_hand() -> list[tuple[str, str, bytes]]:
    """Files that are small and ask for much, or are not what their names say."""
    use = '<g id="a{}">' + '<use xlink:href="#a{}"/>' * 10 + "</g>"
    groups = "".join(use.format(k, *[k - 1] * 10) for k in range(1, 9))
    head = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
    nested = f'{head}<g id="a0"><path d="M0 0L1 1L1 0Z"/></g>{groups}<use xlink:href="#a8"/></svg>'
    entity = '<!DOCTYPE a [<!ENTITY a "aaaaaaaaaa">' + "".join(
        f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in itertools.pairwise("abcdefghij")
    )
    laughs = f"{entity}]>{head}<text>&j;</text></svg>"
    outside = f'<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]>{head}<text>&x;</text></svg>'
    path = head + f'<path d="M0 0{"L1.5 2.5" * 200_000}Z"/></svg>'
    many = b"\0" * 80 + np.uint32(2**32 - 1).tobytes()
    big = Image.new("L", (1, 1))
    bomb = io.BytesIO()
    big.save(bomb, "PNG")
    huge = bomb.getvalue().replace(b"\0\0\0\x01\0\0\0\x01", b"\0\0\xff\xff\0\0\xff\xff")
    step = f"ISO-10303-21;HEADER;ENDSEC;DATA;#1=A({'(' * 100_000}{')' * 100_000});ENDSEC;"
    far = "".join(f"v {10.0**k} {-(10.0**k)} 1e308\n" for k in range(300)) + "f 1 2 3\nf 9 9 9\n"
    return [
        ("use.svg", "bring-curves", nested.encode()),
        ("laughs.svg", "bring-curves", laughs.encode()),
        ("outside.svg", "bring-curves", outside.encode()),
        ("many.stl", "import", many),
        ("huge.png", "ground", huge),
        ("brackets.step", "import", step.encode()),
        ("far.obj", "import", far.encode()),
        ("none.obj", "import", b"# nothing\n"),
        ("bad.obj", "import", b"v 0 0 0\nf 1 2 999999999\nf -1 -2 -3\nf 0 0 0\n"),
        ("nan.csv", "ground", b"nan,inf,-inf\n1e999,1,1\n,,\n1;2;3\n"),
        ("letters.ply", "import", b"ply\nformat ascii 1.0\nelement vertex 99999999999\n"),
        ("zeros.glb", "import", b"glTF" + bytes(4096)),
        ("text.dxf", "bring-curves", b"999\n" * 20_000),
        ("path.svg", "bring-curves", path.encode()),
        ("noise.png", "ground", random.Random(3).randbytes(5000)),
    ]
