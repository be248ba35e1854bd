"""The verdicts as one HTML page that stands alone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from jinja2 import Environment

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Gullyrise: {{ title }}</title>
<style>
body{font:15px/1.45 system-ui,sans-serif;color:#1F2A30;background:#F6F3EC;margin:2rem auto;max-width:62rem;padding:0 1rem}
table{border-collapse:collapse;width:100%;margin:.6rem 0 1.6rem}td,th{border-bottom:1px solid #CFC7B6;padding:.35rem .6rem;
text-align:left;vertical-align:top}td.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}
.pass{color:#55752F}.review{color:#8A580A}.fail{color:#A33B2E}.not-run{color:#5d666a}small{color:#5d666a}
</style></head><body>
<h1>{{ title }}</h1>
<p>{% if machine %}Machine: {{ machine.name }}{% else %}No machine{% endif %}</p>
{% for part in parts %}<h2>{{ part.name }}</h2>
<p>{{ part.format|upper }}, {{ "%.2f × %.2f × %.2f"|format(*part.size) }} mm, unit {{ part.unit }} ({{ part.unit_source }})
{% if part.unit_doubt %}<br><span class="review">Unit doubt: {{ part.unit_doubt }}</span>{% endif %}</p>
<table><tr><th>Check</th><th>Verdict</th><th>Worst</th><th>Why</th></tr>
{% for check in checks if check.part == loop_part(part) %}<tr><td>{{ check.check }}{% if check.pair %}<br><small>{{ check.pair }}
</small>{% endif %}</td><td class="{{ check.verdict }}">{{ check.verdict }}</td>
<td class="n">{% if check.worst %}{{ "%.3f"|format(check.worst.value) }} {{ check.worst.unit }}{% endif %}</td>
<td>{{ check.why }}<br><small>{{ check.method }}{% if check.uncertainty is not none %} ± {{ "%.3g"|format(check.uncertainty) }}
{% endif %}</small></td></tr>{% endfor %}</table>{% endfor %}
{% for error in errors %}<p class="fail">{{ error.reason }}</p>{% endfor %}
</body></html>
"""


def write_page(document: dict[str, Any], owners: list[int], path: Path, title: str) -> None:
    """A page of a `check` document; owners[i] is the number of the part that check i belongs to."""
    checks: list[dict[str, Any]] = []
    for form, owner in zip(document["checks"], owners, strict=True):
        pair = " / ".join(form["subject"]) if isinstance(form["subject"], list) else ""
        checks.append({**form, "part": owner, "pair": pair})
    numbers = {id(part): number for number, part in enumerate(document["parts"])}
    environment = Environment(autoescape=True)
    page = environment.from_string(_PAGE).render(
        title=title,
        machine=document["machine"],
        parts=document["parts"],
        checks=checks,
        errors=document["errors"],
        loop_part=lambda part: numbers[id(part)],
    )
    path.write_text(page, encoding="utf-8")
