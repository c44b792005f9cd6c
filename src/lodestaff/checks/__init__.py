"""The checks: one function each, input record in, findings out; each says beside itself what it is."""

from lodestaff.checks.check import Check
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.checks.table import CHECKS, checks_named

__all__ = ["CHECKS", "Check", "Finding", "Remedy", "Verdict", "checks_named"]
