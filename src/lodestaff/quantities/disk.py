"""Files on disk: read with a cure in words, replaced whole or not at all."""

import contextlib
import errno
import os
import tempfile
from pathlib import Path

from lodestaff.quantities.errors import JobError

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
}


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all: to a neighbour, flushed to disk, then put in its place.

    Raises JobError with a cure; what was there before is then still there.
    """
    temporary: str | None = None
    try:
        descriptor, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        Path(temporary).chmod(mode)
        Path(temporary).replace(path)
        temporary = None
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as trouble:
        cure = CURES.get(trouble.errno or 0, f"{trouble.strerror}; try another folder")
        raise JobError("could not be written", str(path), cure) from trouble
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def read_whole(path: Path) -> bytes:
    """Read a file. Raises JobError with a cure."""
    try:
        return path.read_bytes()
    except OSError as trouble:
        reason = {errno.ENOENT: "there is no such file", errno.EISDIR: "this is a folder, not a job file"}
        what = reason.get(trouble.errno or 0, f"cannot be read: {trouble.strerror}")
        raise JobError(what, str(path), "name a job file (.json)") from trouble
