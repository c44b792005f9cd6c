"""The two families of failure: the job is wrong (say what to mend), or we are (say how to report)."""


class JobError(Exception):
    """Input that cannot be used. Says what is wrong, where, and what would be right."""

    def __init__(self, what: str, where: str = "", right: str = "") -> None:
        self.what, self.where, self.right = what, where, right
        parts = [f"{where}: {what}" if where else what]
        if right and what.endswith("?"):  # the question stands, and how to answer it
            parts = [f"{parts[0]} {right[0].upper()}{right[1:]}"]
        elif right:
            parts.append(right)
        super().__init__("; ".join(parts))


class OurError(Exception):
    """A fault of the program itself."""

    def __init__(self, what: str) -> None:
        super().__init__(f"{what} This is a fault of the program; please report it with the job file.")
