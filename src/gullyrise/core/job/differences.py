"""What differs between two states of a job, in words."""

from __future__ import annotations

from collections import Counter

from gullyrise.core.job.form import JobForm

_MOST = 3


def differences(mine: JobForm, theirs: JobForm) -> tuple[str, ...]:
    """Sentences on what another state of a job has otherwise, none where they say the same."""
    out: list[str] = []
    here, there = _stands(mine), _stands(theirs)
    out += _listed("It holds", there - here, "that yours does not")
    out += _listed("It lacks", here - there, "that yours holds")
    others = _places(theirs)
    moved = sum(others.get(key, place) != place for key, place in _places(mine).items())
    if moved:
        out.append(f"{'1 part stands' if moved == 1 else f'{moved} parts stand'} elsewhere in it.")
    if mine.machine != theirs.machine:
        out.append(f"Its machine is {theirs.machine.name}.")
    for words, one, other in (
        ("limits", mine.limits, theirs.limits), ("saved views", mine.views, theirs.views),
        ("notes", (mine.notes, mine.notes_more), (theirs.notes, theirs.notes_more)),
        ("dimensions", mine.dimensions, theirs.dimensions), ("accepted findings", mine.waivers, theirs.waivers),
    ):  # fmt: skip
        if one != other:
            out.append(f"Its {words} differ.")
    return tuple(out)


def _listed(begin: str, names: Counter[str], end: str) -> list[str]:
    if not names:
        return []
    shown = [name if count == 1 else f"{name} ({count} times)" for name, count in sorted(names.items())]
    more = f" and {len(shown) - _MOST} others" if len(shown) > _MOST else ""
    return [f"{begin} {', '.join(shown[:_MOST])}{more}, {end}."]


def _stands(form: JobForm) -> Counter[str]:
    return Counter(form.parts[stand.part].name for stand in form.stands)


def _places(form: JobForm) -> dict[tuple[str, int], object]:
    return {(form.parts[stand.part].name, stand.id): stand.placement for stand in form.stands}
