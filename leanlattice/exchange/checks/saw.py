"""What a saw is told against the members and the bars they are cut from."""

from __future__ import annotations

from .pack_files import Found, Pack, Row, beyond, number_in

__all__ = ["saw_list_as_bars"]


def saw_list_as_bars(pack: Pack) -> Found:
    """Bars of saw_list.csv against their rows in bars.csv and members.csv (mm)."""
    members = {r["label"]: r for r in pack.rows("members")}
    bars: dict[str, list[Row]] = {}
    for row in pack.rows("bars"):
        bars.setdefault(row["bar"], []).append(row)
    told = [row["bar"] for row in pack.rows("saw_list")]
    if told or bars:
        yield beyond(sorted(told) != sorted(bars)), "bars of saw_list.csv are not those of bars.csv"
    for row in pack.rows("saw_list"):
        own = sorted(bars.get(row["bar"], []), key=lambda r: number_in(r, "from_mm", "bars"))
        if not own or any(r["member"] not in members for r in own):
            yield beyond(True), f"{row['bar']} in saw_list.csv"
            continue
        yield from _bar(row, own)
        yield from _pieces(row, [members[r["member"]] for r in own])


def _bar(row: Row, own: list[Row]) -> Found:
    """A bar against the cuts on it."""
    where = f"{row['bar']} in saw_list.csv"
    last, stock = own[-1], number_in(own[0], "stock_mm", "bars")
    rest = stock - number_in(last, "to_mm", "bars") - number_in(last, "kerf_mm", "bars")
    yield beyond(row["section"] != own[0]["section"]), f"{where}: section"
    yield abs(number_in(row, "stock_mm", "saw_list") - stock), f"{where}: stock"
    yield abs(number_in(row, "offcut_mm", "saw_list") - max(rest, 0.0)), f"{where}: offcut"


def _pieces(row: Row, members: list[Row]) -> Found:
    """What is cut from a bar against the members in their order on it."""
    where = f"{row['bar']} in saw_list.csv"
    yield beyond(row["members"].split() != [r["label"] for r in members]), f"{where}: members"
    yield beyond(number_in(row, "pieces", "saw_list") != len(members)), f"{where}: pieces"
    yield beyond(row["material"] != members[0]["material"]), f"{where}: material"
    cuts = [float(c) for c in row["cuts_mm"].split()]
    lengths = [number_in(r, "cut_length_mm", "members") for r in members]
    yield beyond(len(cuts) != len(lengths)), f"{where}: cuts"
    for given, length in zip(cuts, lengths, strict=False):
        yield abs(given - length), f"{where}: cuts"
