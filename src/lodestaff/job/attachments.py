"""Attachments in a folder beside the job, named by SHA-256."""

import hashlib
from collections.abc import Sequence
from pathlib import Path

from lodestaff.job.model import Job
from lodestaff.job.site import FileWeather
from lodestaff.quantities.disk import make_folder, read_whole, write_whole
from lodestaff.quantities.errors import JobError


def folder_of(job_path: Path) -> Path:
    return job_path.with_name(job_path.stem + ".files")


def attach(job_path: Path, source: Path) -> str:
    """Copy a file into the job's folder; returns its SHA-256, which is its name there."""
    data = read_whole(source)
    digest = hashlib.sha256(data).hexdigest()
    keep(job_path, digest, data)
    return digest


def keep(job_path: Path, digest: str, data: bytes) -> None:
    """Put bytes into the job's folder under their digest, where they don't lie there already."""
    folder = folder_of(job_path)
    try:
        read_attachment(job_path, digest)
    except JobError:
        make_folder(folder)
        write_whole(folder / digest, data)


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
    """The attachments that a job names: its weather, its interval data, photos, the plan that was agreed."""
    named = [job.site.weather.sha256] if isinstance(job.site.weather, FileWeather) else []
    named += [job.site.metered.sha256] if job.site.metered else []
    named += [job.tariff.hourly.sha256] if job.tariff.hourly else []
    named += [wall.photo.sha256 for wall in job.walls if wall.photo]
    named += [photo.sha256 for photo in job.handed.photos]
    named += [job.handed.plan.sha256] if job.handed.plan else []
    return tuple(dict.fromkeys((*named, *(photo for device in job.site.found for photo in device.photos))))


def carry(job: Job, homes: Sequence[Path], target: Path) -> tuple[str, ...]:
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
        keep(target, digest, data)
    return tuple(lost)
