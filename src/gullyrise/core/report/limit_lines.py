"""Every limit that a report's verdicts were given against, and where each came from."""

from __future__ import annotations

from collections.abc import Iterable

from gullyrise.core.checks.registry import checks
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.number_words import given as short
from gullyrise.core.report.report_model import LimitLine


def limit_lines(machine: Machine, given: Limits, names: Iterable[str], source: str) -> tuple[LimitLine, ...]:
    """given : limits that went before the machine's;  names : ids of the checks;  source : where the given ones came from"""
    settled = machine.full_limits(given)
    out: list[LimitLine] = []
    told: set[tuple[str, str]] = set()
    for id in names:
        known = checks().get(id)
        for row in known.ROW.limits if known is not None else ():
            value = settled.value(row.name)
            if value is None or (id, row.name) in told:
                continue
            told.add((id, row.name))
            if isinstance(value, int | float):
                words = f"{short(float(value))}{'' if row.unit == '°' else ' '}{row.unit}"
            else:
                words = ", ".join(str(one) for one in value)
            title = known.ROW.title if known is not None else id
            out.append(LimitLine(f"{title}: {row.words}", words, _from(machine, given, row.name, source)))
    for pair in settled.pair_gaps or ():
        gap = f"{short(pair.gap)} mm" if pair.gap is not None else "the least gap"
        out.append(LimitLine(f"{pair.a} and {pair.b}, {pair.kind}", gap, _from(machine, given, "pair_gaps", source)))
    return tuple(out)


def _from(machine: Machine, given: Limits, name: str, source: str) -> str:
    if given.value(name) is not None:
        return source
    margin = {"edge_margin": machine.margins.edge, "top_margin": machine.margins.top}.get(name)
    if machine.limits.value(name) is not None or margin is not None:
        return "the machine"
    return "the machine's thinnest tool" if name in ("tool_diameter", "tool_reach") and machine.tool else "the usual value"
