"""Files on disk: read bounded and with a cure in words, replaced whole or not at all."""

import contextlib
import errno
import os
import stat
import tempfile
from pathlib import Path

from lodestaff.quantities.errors import JobError

MOST_BYTES = 256 * 1024**2  # of any file that is read whole

CURES = {
    errno.ENOSPC: "the disk is full: free some space or save elsewhere; the file on disk is as it was",
    errno.EFBIG: "the file system refuses a file of this size: save elsewhere; the file on disk is as it was",
    errno.EDQUOT: "your quota is used up: free some space or save elsewhere; the file on disk is as it was",
    errno.EACCES: "you may not write there: choose another folder",
    errno.EPERM: "you may not write there: choose another folder",
    errno.EROFS: "that file system is read-only: choose another folder",
    errno.ENOENT: "that folder does not exist: choose another or make it first",
    errno.ENOTDIR: "part of that path is a file, not a folder: choose another",
    errno.EISDIR: "that is a folder: name a file in it",
    errno.ENAMETOOLONG: "that name is too long: choose a shorter one",
    errno.ELOOP: "its links lead in a circle: choose another file",
}
UNREAD = {
    errno.ENOENT: "there is no such file",
    errno.EISDIR: "this is a folder, not a job file",
    errno.ENAMETOOLONG: "that name is too long",
    errno.ELOOP: "its links lead in a circle",
}


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all: to a neighbour, flushed to disk, then put in its place.

    A link stays a link: what it points at is replaced. What earlier writers left half done beside it is swept
    away. Raises JobError with a cure; what was there before is then still there.
    """
    temporary: str | None = None
    try:
        target = Path(os.path.realpath(path)) if path.is_symlink() else path
        if target.exists() and not target.is_file():
            what = errno.EISDIR if target.is_dir() else errno.EPERM
            raise OSError(what, "is no plain file")
        descriptor, temporary = tempfile.mkstemp(
            prefix=f".{target.name[:100]}.{os.getpid()}.", suffix=".part", dir=target.parent
        )
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask()
        Path(temporary).chmod(mode)
        Path(temporary).replace(target)
        temporary = None
        sync_folder(target.parent)
        _sweep(target)
    except (OSError, ValueError) as trouble:
        raise JobError("could not be written", shown_path(path), cure_of(trouble)) from trouble
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


def cure_of(trouble: Exception) -> str:
    """What to do about a disk that refuses."""
    number = trouble.errno if isinstance(trouble, OSError) else None
    words = trouble.strerror if isinstance(trouble, OSError) and trouble.strerror else str(trouble)
    return CURES.get(number or 0, f"{words}; try another folder")


def make_folder(folder: Path) -> None:
    """Make a folder and those above it. Raises JobError with a cure."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except (OSError, ValueError) as trouble:
        raise JobError("the folder could not be made", shown_path(folder), cure_of(trouble)) from trouble


def sync_folder(folder: Path) -> None:
    """Flush a folder's own entries to disk."""
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def _sweep(target: Path) -> None:
    """Take away what writers of this file left who don't run any more."""
    for left in target.parent.glob(f".{_literal(target.name[:100])}.*.part"):
        writer = left.name.removesuffix(".part").split(".")[-2]
        with contextlib.suppress(OSError):
            if writer.isdigit() and not runs(int(writer)):
                left.unlink()


def _literal(name: str) -> str:
    """A name as a pattern that matches itself alone."""
    return "".join(f"[{sign}]" if sign in "*?[" else sign for sign in name)


def runs(pid: int) -> bool:
    """Whether a process of this machine runs."""
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:  # it runs, and is another's
        return True
    return True


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def shown_path(path: Path) -> str:
    """A path as a message names it: of a very long one its end."""
    text = str(path)
    return text if len(text) <= 120 else f"…{text[-118:]}"


def read_whole(path: Path, most_bytes: int = MOST_BYTES) -> bytes:
    """Read a plain file, at most so many bytes. Raises JobError with a cure."""
    right = "name a job file (.json)"
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(descriptor, "rb") as stream:
            about = os.fstat(descriptor)
            if stat.S_ISDIR(about.st_mode):
                raise OSError(errno.EISDIR, "is a folder")
            if not stat.S_ISREG(about.st_mode):
                raise JobError("is no plain file", shown_path(path), right)
            data = stream.read(most_bytes + 1)
    except (OSError, ValueError) as trouble:
        number = trouble.errno if isinstance(trouble, OSError) else 0
        words = trouble.strerror if isinstance(trouble, OSError) else str(trouble)
        raise JobError(
            UNREAD.get(number or 0, f"cannot be read: {words}"), shown_path(path), right
        ) from trouble
    if len(data) > most_bytes:
        raise JobError(f"is larger than {most_bytes // 1024**2} MB", shown_path(path), right)
    return data
