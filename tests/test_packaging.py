"""What is installed beside the program: sound by its own standards, and made of what is there."""

import subprocess
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from lodestaff.cli import completion
from lodestaff.cli.run import COMMANDS
from lodestaff.job.file import job_text

PACKAGING = Path(__file__).parents[1] / "packaging"
MIME = "application/vnd.lodestaff.job+json"


def test_the_desktop_opens_job_files_with_it():
    lines = (PACKAGING / "lodestaff.desktop").read_text().splitlines()
    assert "Exec=lodestaff %f" in lines
    assert f"MimeType={MIME};" in lines
    root = ET.parse(PACKAGING / "lodestaff.metainfo.xml").getroot()
    assert root.findtext("provides/mediatype") == MIME
    assert root.findtext("launchable") == "lodestaff.desktop"


def test_a_job_file_is_known_by_what_it_begins_with(larkmoor):
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    kind = ET.parse(PACKAGING / "lodestaff.xml").getroot().find("m:mime-type", space)
    assert kind is not None
    assert kind.get("type") == MIME
    match = kind.find("m:magic/m:match", space)
    assert match is not None
    first, last = map(int, match.get("offset", "").split(":"))
    assert first <= job_text(larkmoor).index(match.get("value", "?")) <= last


def test_completion_and_manual_name_every_command():
    assert set(completion.commands()) == COMMANDS
    for text in (*map(completion.script, completion.SHELLS), completion.manual()):
        for name in COMMANDS:
            assert name.replace("-", "\\-") in text or name in text


@pytest.mark.parametrize("words", [["lodestaff", "che"], ["lodestaff", "wire", "job.json", "--st"]])
def test_bash_completes(words):
    asked = f"COMP_WORDS=({' '.join(words)}); COMP_CWORD={len(words) - 1}; _lodestaff; echo ${{COMPREPLY[@]}}"
    done = subprocess.run(
        ["bash", "-c", f"{completion.script('bash')}\n{asked}"], capture_output=True, text=True, check=True
    )
    assert {"che": "check", "--st": "--state"}[words[-1]] in done.stdout.split()


def test_the_wheel_is_bounded_by_what_is_tested():
    """Each dependency is bounded on both sides; the locked versions that the tests run with lie within."""
    import tomllib
    from importlib.metadata import version

    from packaging.requirements import Requirement

    project = tomllib.loads((PACKAGING.parent / "pyproject.toml").read_text())["project"]
    for one in map(Requirement, project["dependencies"]):
        assert one.specifier.contains(version(one.name)), one
        signs = {bound.operator for bound in one.specifier}
        assert ">=" in signs, one
        assert "<" in signs or one.name == "tzdata", one
