"""Findings gathered by what causes them: one line for a cause, opened to see each answer."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from lodestaff.checks import Finding, Remedy
from lodestaff.job import Change

NAMED = 2  # codes that a line names; of more only the first


@dataclass(frozen=True)
class Cause:
    """Answers that one cause has, in the order of the findings: never empty."""

    findings: tuple[Finding, ...]

    @property
    def worst(self) -> Finding:
        """The answer that speaks for all."""
        return self.findings[0]

    @property
    def key(self) -> tuple[object, ...]:
        return _cause(self.worst)

    @property
    def status(self) -> str:
        return self.worst.status

    @property
    def count(self) -> int:
        return len(self.findings)

    @cached_property
    def codes(self) -> str:
        """The codes of its checks in words."""
        codes = list(dict.fromkeys(finding.code for finding in self.findings))
        return ", ".join(codes) if len(codes) <= NAMED else f"{codes[0]} and {len(codes) - 1} more"

    @cached_property
    def text(self) -> str:
        """What the line says: the finding itself, or the cause that several share."""
        if self.count == 1:
            return self.worst.text
        if self.worst.open_because:
            because = "; ".join(self.worst.open_because[:2])
            return f"{because[0].upper()}{because[1:]}: {self.count} answers wait for it."
        return " ".join((self.worst.text, f"And {self.count - 1} more."))

    @cached_property
    def remedies(self) -> tuple[Remedy, ...]:
        """The remedies of one answer; of several one for all, where each has one and none undoes another."""
        if self.count == 1:
            return self.worst.remedies
        changes: dict[str, Change] = {}
        for finding in self.findings:
            for change in finding.remedies[0].changes if finding.remedies else ():
                if changes.setdefault(change.path, change) != change:
                    return ()
        if not all(finding.remedies for finding in self.findings):
            return ()
        first = self.worst.remedies[0]
        same = all(finding.remedies[0].key == first.key for finding in self.findings)
        name = first.name if same else f"{first.name}, and {self.count - 1} more like it"
        return (Remedy(name, tuple(changes.values())),)


def gathered(findings: Iterable[Finding]) -> tuple[Cause, ...]:
    """The causes, each where its first finding stands."""
    by_cause: dict[tuple[object, ...], list[Finding]] = {}
    for finding in findings:
        by_cause.setdefault(_cause(finding), []).append(finding)
    return tuple(Cause(tuple(each)) for each in by_cause.values())


def _cause(finding: Finding) -> tuple[object, ...]:
    """What findings of one cause share: open ones what they wait for, others the check and its question."""
    if finding.open_because:
        return finding.status, finding.open_because
    return finding.status, finding.rule, finding.quantity
