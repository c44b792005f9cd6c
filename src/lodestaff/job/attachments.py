"""Attachments in a folder beside the job, named by SHA-256; and one file of all three to send."""

import hashlib
import io
import zipfile
from pathlib import Path, PurePosixPath

from lodestaff.job.file import load_job, parse_job
from lodestaff.job.journal import journal_path
from lodestaff.job.model import Job
from lodestaff.job.site import FileWeather
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.errors import JobError

LARGEST_UNPACKED_BYTES = 2 * 1024**3


def folder_of(job_path: Path) -> Path:
    return job_path.with_name(job_path.stem + ".files")


def attach(job_path: Path, source: Path) -> str:
    """Copy a file into the job's folder; returns its SHA-256, which is its name there."""
    data = read_whole(source)
    digest = hashlib.sha256(data).hexdigest()
    folder = folder_of(job_path)
    try:
        folder.mkdir(exist_ok=True)
    except OSError as trouble:
        raise JobError("the folder cannot be made", str(folder), str(trouble.strerror)) from trouble
    if not (folder / digest).exists():
        write_whole(folder / digest, data)
    return digest


def read_attachment(job_path: Path, digest: str) -> bytes:
    """The attachment's bytes. Raises JobError where it is missing or no longer what it was."""
    path = folder_of(job_path) / digest
    if not path.is_file():
        raise JobError("the attachment is missing", str(path), "put the file back or attach it again")
    data = read_whole(path)
    if hashlib.sha256(data).hexdigest() != digest:
        raise JobError("the attachment was changed", str(path), "restore it from a copy or attach it again")
    return data


def digests_of(job: Job) -> tuple[str, ...]:
    """The attachments that a job names: its weather, its interval data, photos of what was found."""
    named = [job.site.weather.sha256] if isinstance(job.site.weather, FileWeather) else []
    named += [job.site.metered.sha256] if job.site.metered else []
    return tuple(dict.fromkeys((*named, *(photo for one in job.site.found for photo in one.photos))))


def carry(job: Job, homes: tuple[Path, ...], target: Path) -> tuple[str, ...]:
    """Bring a job's attachments to where it is saved, from wherever they lie; returns those that were found
    nowhere."""
    lost = []
    for digest in digests_of(job):
        if (folder_of(target) / digest).exists():
            continue
        data = None
        for home in homes:
            try:
                data = read_attachment(home, digest)
                break
            except JobError:
                continue
        if data is None:
            lost.append(digest)
            continue
        folder_of(target).mkdir(exist_ok=True)
        write_whole(folder_of(target) / digest, data)
    return tuple(lost)


def pack(job_path: Path, target: Path) -> list[str]:
    """Write design, journal and attachments into one zip file; returns the names in it."""
    load_job(job_path)
    members = [(job_path, "job.json")]
    if journal_path(job_path).exists():
        members.append((journal_path(job_path), "journal.jsonl"))
    folder = folder_of(job_path)
    if folder.is_dir():
        members += [(path, f"files/{path.name}") for path in sorted(folder.iterdir()) if path.is_file()]
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, name in members:
            archive.writestr(zipfile.ZipInfo(name), read_whole(path), zipfile.ZIP_DEFLATED)
    write_whole(target, buffer.getvalue())
    return [name for _, name in members]


def unpack(source: Path, job_path: Path) -> list[str]:
    """Lay a packed job out beside `job_path`. Nothing is written unless the whole pack is sound."""
    if job_path.exists():
        raise JobError("is already there", str(job_path), "name a file that does not exist yet")
    try:
        with zipfile.ZipFile(io.BytesIO(read_whole(source))) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > LARGEST_UNPACKED_BYTES:
                raise JobError("is too large to unpack", str(source))
            contents = {name: archive.read(name) for name in archive.namelist()}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError) as trouble:
        raise JobError(
            "is not a packed job", str(source), "a packed job is made by `lodestaff pack`"
        ) from trouble
    if "job.json" not in contents:
        raise JobError("holds no job.json", str(source), "a packed job is made by `lodestaff pack`")
    parse_job(contents["job.json"], f"{source.name} job.json")
    for name, data in contents.items():
        _check_member(name, data, source)
    folder = folder_of(job_path)
    for name, data in contents.items():
        if name.startswith("files/"):
            folder.mkdir(exist_ok=True)
            write_whole(folder / PurePosixPath(name).name, data)
    if "journal.jsonl" in contents:
        write_whole(journal_path(job_path), contents["journal.jsonl"])
    write_whole(job_path, contents["job.json"])
    return sorted(contents)


def _check_member(name: str, data: bytes, source: Path) -> None:
    if name in ("job.json", "journal.jsonl"):
        return
    digest = PurePosixPath(name).name
    if name != f"files/{digest}" or hashlib.sha256(data).hexdigest() != digest:
        raise JobError(
            f"holds {name!r}, which does not belong there or was changed", str(source), "pack it again"
        )
