"""The exit codes of the command line."""

FINE, BLOCKED, UNREADABLE = 0, 1, 2  # 3 is a fault of the program
