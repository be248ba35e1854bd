"""A report as one HTML page that refers to nothing outside itself: the same page is the report on screen and on paper."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from jinja2 import Environment, StrictUndefined, Template
from markupsafe import Markup

from gullyrise.core.checks.protocol import GRAVITY, Verdict
from gullyrise.core.checks.registry import checks
from gullyrise.core.report.report_model import CheckPart, PartChapter, Report
from gullyrise.core.report.stamps import STAMPS

_HERE = Path(__file__).parent
VERDICTS: dict[Verdict, str] = {"pass": "Pass", "review": "Review", "fail": "Fail", "not-run": "Not run"}


@dataclass(frozen=True, slots=True)
class _Glance:
    verdict: Verdict
    worst: str
    more: str


def html_of(report: Report, fonts: Path) -> str:
    """The whole page. fonts : folder of the typeface that is packed into it

    Notes: what comes from files and people is data to the template, and escaped; a right-to-left name stays within itself.
    """
    ids = _columns(report)
    known = checks()
    return _template().render(
        report=report,
        words=VERDICTS,
        stamps=STAMPS,
        style=Markup(_text("report.css")),
        regular=_font(fonts / "PublicSans-Regular.ttf"),
        strong=_font(fonts / "PublicSans-SemiBold.ttf"),
        columns=[known[id].ROW.title if id in known else id for id in ids],
        column_ids=ids,
        glance=_glance,
        told_whole=_whole(report),
        pieces=sum(part.quantity for part in report.parts),
        methods=list(_methods(report)),
    )


@cache
def _text(name: str) -> str:
    return (_HERE / name).read_text(encoding="utf-8")


@cache
def _template() -> Template:
    environment = Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    environment.filters["data_uri"] = lambda data: _uri(data, "image/png")
    return environment.from_string(_text("report.html.j2"))


def _uri(data: bytes, kind: str) -> str:
    return f"data:{kind};base64,{base64.b64encode(data).decode('ascii')}"


@cache
def _font(path: Path) -> Markup:
    return Markup(_uri(path.read_bytes(), "font/ttf"))


def _columns(report: Report) -> list[str]:
    """Ids of the checks that say something of a part, in their usual order."""
    said = {check.id for part in report.parts for check in part.checks}
    known = checks()
    return sorted(said, key=lambda id: (known[id].ROW.order if id in known else 99, id))


def _glance(part: PartChapter, id: str) -> _Glance | None:
    """What one check says of a part in a cell; of many pairs the gravest, with how many there are."""
    mine = [check for check in part.checks if check.id == id]
    if not mine:
        return None
    worst = max(mine, key=lambda check: GRAVITY[check.verdict])
    found = sum(len(check.findings) for check in mine)
    return _Glance(worst.verdict, worst.worst, f"{found} findings" if found > 1 else "")


def _whole(report: Report) -> str:
    count = len(report.parts)
    if not count:
        return "No part could be judged."
    failed = sum(part.verdict == "fail" for part in report.parts)
    unsure = sum(part.verdict == "review" for part in report.parts)
    if not failed and not unsure:
        return "Every check that was run passes." if report.verdict == "pass" else "Some checks were not run."
    told = [f"{failed} {'fails' if failed == 1 else 'fail'}"] if failed else []
    told += [f"{unsure} {'is' if unsure == 1 else 'are'} to be reviewed"] if unsure else []
    return f"Of {count} {'part' if count == 1 else 'parts'}, " + " and ".join(told) + "."


def _methods(report: Report) -> Iterator[tuple[str, str, list[tuple[str, str]]]]:
    """(title, method, [(part, how closely was looked)]) of every check that was run."""
    for id in _columns(report):
        mine: list[tuple[PartChapter, CheckPart]] = [
            (part, one) for part in report.parts for one in part.checks if one.id == id and one.method
        ]
        if not mine:
            continue
        samplings = list(dict.fromkeys((part.name, check.sampling) for part, check in mine if check.sampling))
        # What is the same of all parts is said once.
        if len({said for _, said in samplings}) == 1 and len(samplings) > 1:
            samplings = [("all parts", samplings[0][1])]
        yield mine[0][1].title, mine[0][1].method, samplings
