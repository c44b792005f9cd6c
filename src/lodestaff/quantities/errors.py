"""The two families of failure: the job is wrong (say what to mend), or we are (say how to report)."""

MOST_SIGNS = 300  # of a message
MOST_WHERE, MOST_WHAT = 90, 150


class JobError(Exception):
    """Input that cannot be used. Says what is wrong, where, and what would be right, in at most 300 signs."""

    def __init__(self, what: str, where: str = "", right: str = "") -> None:
        self.what, self.where, self.right = what, where, right
        if len(what) + len(where) + len(right) + 4 > MOST_SIGNS:
            what, where = shortened(what, MOST_WHAT), shortened(where, MOST_WHERE)
        what, where = (shortened(part, MOST_SIGNS) for part in (what, where))
        right = shortened(right, MOST_SIGNS - len(what) - len(where) - 4)
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


def shortened(text: str, most: int) -> str:
    """Words on one line, of at most so many signs: of longer ones the middle is left out; control characters
    show as signs."""
    line = visible(" ".join(text.split()))
    if len(line) <= most:
        return line
    end = most // 4
    return f"{line[: most - end - 1]}…{line[-end:]}"


def visible(text: str) -> str:
    """Text that every output takes: control characters and what is no character show as signs; line ends and
    tabs stay."""
    return text if text.isprintable() else "".join(_sign(sign) for sign in text)


def _sign(sign: str) -> str:
    code = ord(sign)
    if sign in "\n\t":
        return sign
    if code < 0x20:
        return chr(0x2400 + code)
    if code == 0x7F:
        return "\u2421"
    odd = 0x80 <= code < 0xA0 or 0xD800 <= code < 0xE000 or code & 0xFFFE == 0xFFFE or 0xFDD0 <= code < 0xFDF0
    return "\ufffd" if odd else sign
