"""The checks: one function each, input record in, findings out, declared in one table."""

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.checks.table import CHECKS, Check, checks_named

__all__ = ["CHECKS", "Check", "Finding", "Remedy", "Verdict", "checks_named"]
