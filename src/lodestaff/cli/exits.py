"""The exit codes of the command line."""

FINE, BLOCKED, UNREADABLE, FAULT = 0, 1, 2, 3
STOPPED = 130  # by Ctrl+C
