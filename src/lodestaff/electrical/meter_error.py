"""By how much the meter of a limit may be wrong: by its own sheet, else by the pack's margin."""

from lodestaff.catalogue import PackValue
from lodestaff.job import Job
from lodestaff.job.plan import Transformer
from lodestaff.quantities import Provenance


def export_meter_error(job: Job) -> PackValue:
    """The largest error, as a share, of the meters that prove the site's limits: class of the meter and of
    its current transformer added. A meter without a sheet counts with the pack's margin."""
    usual = job.pack.value("meter_error_share")
    proving = [part for part in job.parts if isinstance(part, Transformer) and part.proves_limit]
    errors = [usual if not part.sheet else _by_sheet(job, part) for part in proving]
    return max(errors, key=lambda error: error.value, default=usual)


def _by_sheet(job: Job, part: Transformer) -> PackValue:
    sheet = job.sheets.meters[part.sheet]
    words = f"{sheet.name}: class {sheet.accuracy_class:g}"
    if sheet.ct_class is not None:
        words += f" and its current transformer of class {sheet.ct_class:g}"
    error = (sheet.accuracy_class + (sheet.ct_class or 0.0)) / 100
    return PackValue(value=error, unit="", source=words, provenance=Provenance.SHEET)
