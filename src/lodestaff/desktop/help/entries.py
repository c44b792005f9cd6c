"""An entry for each check and each step, in the program's own words."""

from collections.abc import Sequence

from lodestaff.catalogue import load_pack, pack_names
from lodestaff.checks import Finding
from lodestaff.checks.table import CHECKS, checks_named
from lodestaff.commissioning.rules import ASKED_WORDS
from lodestaff.commissioning.step import Step
from lodestaff.desktop.actions import STATION_NAMES
from lodestaff.quantities import Figure

SIGNS = "blocks: cure it first; warns; notes; open: it rests on what nobody knows yet; passed"


def codes() -> tuple[str, ...]:
    """The codes of all checks, in the order of the stations."""
    return tuple(dict.fromkeys(check.code for check in CHECKS))


def check_entry(code: str, findings: Sequence[Finding] = ()) -> str:
    """What a check asks, what it rests on, how it is reckoned in this job. Raises JobError for no check."""
    checks = checks_named(code)
    packs = [name for name in pack_names() if any(check.applies(load_pack(name)) for check in checks)]
    parts = [
        f"# {checks[0].code}",
        f"At {STATION_NAMES[checks[0].station]}; for the packs {', '.join(packs)}.",
    ]
    for check in checks:
        part = f" ({check.part})" if check.part else ""
        parts.append(f"**It asks{part}:** {check.question}\n\nIts limit rests on: {check.limit_from}.")
    here = [finding for finding in findings if finding.code == checks[0].code]
    for finding in here[:8]:
        parts.append(f"- **{finding.status}** {finding.text}")
    seen: dict[str, Figure] = {}
    for finding in here:
        if finding.figure is not None:
            seen.setdefault(finding.figure.formula, finding.figure)
    for figure in seen.values():
        parts.append(f"**{figure.name}** = {figure.formula}. Source: {figure.source}.")
    parts.append(f"Signs: {SIGNS}.")
    return "\n\n".join(parts)


def step_entry(step: Step) -> str:
    """What a step of the procedure does, needs, expects and warns of."""
    parts = [f"# Step {step.id}", step.text]
    if step.caution:
        parts.append(f"**Caution:** {step.caution}")
    parts.append(f"**Judged by:** {(type(step.rule).__doc__ or '').strip()}")
    if step.rule.asks:
        parts.append(f"**Measured beside it:** {', '.join(ASKED_WORDS[each] for each in step.rule.asks)}.")
    if step.waits_for:
        parts.append(f"**It waits for:** {', '.join(step.waits_for)}.")
    if step.needs:
        parts.append(f"**It needs besides:** {step.needs}.")
    parts.append(
        "A reading is judged against its bounds, which say where they come from. What is put off stays "
        "open; a withdrawn reading stays in the journal. Done on live parts only by those who may."
    )
    return "\n\n".join(parts)
