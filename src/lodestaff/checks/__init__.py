"""The checks: one function each, input record in, findings out, declared in one table."""

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.checks.table import CHECKS, Check, check_named

__all__ = ["CHECKS", "Check", "Finding", "Remedy", "Verdict", "check_named"]
