"""One file of design, journal and attachments to send; taken apart only where all of it is sound."""

import hashlib
import io
import struct
import zipfile
import zlib
from pathlib import Path, PurePosixPath

from lodestaff.job.attachments import digests_of, folder_of, keep, read_attachment
from lodestaff.job.file import load_job, parse_job
from lodestaff.job.journal import append_entries, aside_path, journal_path, line_of, parse, put_aside, read
from lodestaff.job.laying import merged
from lodestaff.quantities.disk import MOST_BYTES, make_folder, read_whole, write_whole
from lodestaff.quantities.errors import JobError

MOST_MEMBERS = 5000
MOST_RATIO = 200  # of unpacked to packed bytes, beyond what any file may have
SMALL_BYTES = 16 * 1024**2
JOURNALS = ("refuse", "merge", "replace")
MADE_BY = "a packed job is made by `lodestaff pack`"


def pack(job_path: Path, target: Path, incomplete: bool = False) -> list[str]:
    """Write design, journal and attachments into one zip file; returns the names in it.

    Raises JobError where an attachment that the job names is missing or was changed, unless `incomplete`.
    """
    job = load_job(job_path)
    contents = {"job.json": read_whole(job_path)}
    contents |= _journal(job_path)
    folder = folder_of(job_path)
    there = {path.name for path in folder.iterdir() if _is_digest(path.name)} if folder.is_dir() else set()
    for digest in sorted(there | set(digests_of(job))):
        try:
            contents[f"files/{digest}"] = read_attachment(job_path, digest)
        except JobError as trouble:
            if digest in digests_of(job) and not incomplete:
                raise JobError(trouble.what, trouble.where, f"{trouble.right}, or --incomplete") from trouble
    if sum(len(data) for data in contents.values()) > MOST_BYTES:
        raise JobError(f"would hold more than {MOST_BYTES // 1024**2} MB", str(target), "take photos out")
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in contents.items():
            archive.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    write_whole(target, buffer.getvalue())
    return list(contents)


def _journal(job_path: Path) -> dict[str, bytes]:
    """The journal's members: its sound lines, and apart what can't be read."""
    files: dict[str, bytes] = {}
    path = journal_path(job_path)
    aside = read_whole(aside_path(job_path)) if aside_path(job_path).exists() else b""
    if path.exists():
        raw = read_whole(path)
        journal = parse(raw, path.name)
        if journal.damaged:
            aside += b"".join(words.encode() + b"\n" for words in journal.damaged) + raw
            raw = b"".join(line_of(entry) for entry in journal.entries)
        files["journal.jsonl"] = raw
    if aside:
        files["journal.aside"] = aside
    return files


def unpack(source: Path, job_path: Path, journal: str = "refuse", incomplete: bool = False) -> list[str]:
    """Lay a packed job out beside `job_path`. Nothing is written unless the whole pack is sound.

    `journal` says what becomes of one that lies there already: "refuse", "merge", or "replace" (the old one
    is then kept under another name).
    """
    if job_path.exists():
        raise JobError("is already there", str(job_path), "name a file that does not exist yet")
    if journal_path(job_path).exists() and journal == "refuse":
        right = "--merge adds to it, --replace keeps it under another name; or name another file"
        raise JobError("a journal lies there", str(journal_path(job_path)), right)
    contents = _contents(source)
    job = parse_job(contents["job.json"], f"{source.name} job.json")
    missing = [digest for digest in digests_of(job) if f"files/{digest}" not in contents]
    if missing and not incomplete:
        right = "pack it again beside its files, or --incomplete"
        raise JobError(f"lacks {len(missing)} of the job's attachments", str(source), right)
    entries = parse(contents.get("journal.jsonl", b""), "journal.jsonl")
    if entries.damaged:
        raise JobError(entries.damaged[0], str(source), "pack it again")
    make_folder(job_path.parent)
    for name, data in contents.items():
        if name.startswith("files/"):
            keep(job_path, PurePosixPath(name).name, data)
    if journal_path(job_path).exists() and journal == "replace":
        put_aside(job_path)
    if journal_path(job_path).exists():
        append_entries(job_path, merged(read(job_path), entries.entries))
    elif "journal.jsonl" in contents:
        write_whole(journal_path(job_path), contents["journal.jsonl"])
    if "journal.aside" in contents and not aside_path(job_path).exists():
        write_whole(aside_path(job_path), contents["journal.aside"])
    write_whole(job_path, contents["job.json"])
    return sorted(contents)


def _contents(source: Path) -> dict[str, bytes]:
    """All members, each checked. Raises JobError for what is no sound pack."""
    packed = read_whole(source)
    contents: dict[str, bytes] = {}
    try:
        with zipfile.ZipFile(io.BytesIO(packed)) as archive:
            members = archive.infolist()
            _bounded(members, source)
            for member in members:
                if member.filename in contents:
                    raise JobError(f"holds {member.filename!r} twice", str(source), MADE_BY)
                with archive.open(member) as stream:
                    contents[member.filename] = stream.read(member.file_size + 1)
    except (zipfile.BadZipFile, zlib.error, struct.error) as trouble:
        raise JobError("is not a packed job, or was damaged", str(source), MADE_BY) from trouble
    except (NotImplementedError, RuntimeError, OSError, EOFError, ValueError, KeyError) as trouble:
        raise JobError("is not a packed job", str(source), MADE_BY) from trouble
    if "job.json" not in contents:
        raise JobError("holds no job.json", str(source), MADE_BY)
    for name, data in contents.items():
        _check_member(name, data, source)
    return contents


def _bounded(members: list[zipfile.ZipInfo], source: Path) -> None:
    """Refuse what would take more than a pack may, before anything of it is taken apart."""
    if len(members) > MOST_MEMBERS or sum(member.file_size for member in members) > MOST_BYTES:
        raise JobError("is too large to unpack", str(source), f"at most {MOST_BYTES // 1024**2} MB in all")
    for member in members:
        if member.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) or member.flag_bits & 1:
            raise JobError("is packed in a way that isn't read", str(source), MADE_BY)
        if member.file_size > SMALL_BYTES and member.file_size > MOST_RATIO * max(1, member.compress_size):
            raise JobError("would grow out of all proportion", str(source), MADE_BY)


def _is_digest(name: str) -> bool:
    return len(name) == 64 and all(sign in "0123456789abcdef" for sign in name)


def _check_member(name: str, data: bytes, source: Path) -> None:
    if name in ("job.json", "journal.jsonl", "journal.aside"):
        return
    digest = PurePosixPath(name).name
    if name != f"files/{digest}" or hashlib.sha256(data).hexdigest() != digest:
        raise JobError(
            f"holds {name!r}, which does not belong there or was changed", str(source), "pack it again"
        )
