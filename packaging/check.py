"""Installs the Debian package in a bare Debian, uses it without a network as one who may not write there, and
takes it away again. Run as root by `./run package`; needs debootstrap.
"""

import json
import shutil
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BARE = ROOT / "build" / "bare"
PERSON = "installer"
APT = ("sources.list.d", "apt.conf.d", "trusted.gpg.d")
SAMPLE = "/usr/lib/lodestaff/site/lodestaff/_samples/larkmoor.json"
FILES = (
    "/usr/bin/lodestaff",
    "/usr/share/applications/lodestaff.desktop",
    "/usr/share/mime/packages/lodestaff.xml",
    "/usr/share/metainfo/lodestaff.metainfo.xml",
    "/usr/share/icons/hicolor/scalable/apps/lodestaff.svg",
    "/usr/share/man/man1/lodestaff.1.gz",
    "/usr/share/bash-completion/completions/lodestaff",
    "/usr/share/fish/vendor_completions.d/lodestaff.fish",
)


def call(*command: object) -> None:
    subprocess.run([str(part) for part in command], check=True)


def bare(release: str) -> None:
    """A Debian with nothing but its base, made once."""
    if (BARE / "done").exists():
        return
    shutil.rmtree(BARE, ignore_errors=True)
    call("debootstrap", "--variant=minbase", release, BARE)
    for place in ("/etc/apt/sources.list", "/etc/resolv.conf"):
        shutil.copy(place, f"{BARE}{place}") if Path(place).exists() else None
    for place in (
        "/etc/apt/sources.list.d",
        "/etc/apt/apt.conf.d",
        "/etc/apt/trusted.gpg.d",
        "/usr/share/keyrings",
    ):
        if Path(place).is_dir():
            shutil.copytree(place, f"{BARE}{place}", dirs_exist_ok=True)
    call("chroot", BARE, "useradd", "--create-home", PERSON)
    (BARE / "done").touch()


def person(*command: str, code: int = 0) -> tuple[str, float]:
    """Run a command as a person without a network; what it said, and how long it took."""
    begun = time.monotonic()
    line = " ".join(command)
    inside = ["chroot", str(BARE), "su", "-", PERSON, "-c", f"QT_QPA_PLATFORM=offscreen {line}"]
    done = subprocess.run(["unshare", "--net", *inside], capture_output=True, text=True, check=False)
    if done.returncode != code:
        raise SystemExit(f"check: {line}: exit {done.returncode}\n{done.stdout[-1000:]}{done.stderr[-2000:]}")
    return done.stdout, time.monotonic() - begun


def main(deb: Path, release: str = "bookworm") -> int:
    bare(release)
    shutil.copy(deb, BARE / "tmp" / deb.name)
    apt = [
        "chroot",
        BARE,
        "env",
        "DEBIAN_FRONTEND=noninteractive",
        "apt-get",
        "-y",
        "-q",
        "-o",
        "Dpkg::Use-Pty=0",
    ]
    call(*apt, "update")
    call(*apt, "install", "--no-install-recommends", f"/tmp/{deb.name}")
    missing = [file for file in FILES if not Path(f"{BARE}{file}").exists()]
    if missing:
        raise SystemExit(f"check: not installed: {missing}")
    said, _ = person("lodestaff", "--version")
    print(said.strip())
    person("lodestaff", "new", "--kind", "A", "-o", "job.json")
    _, first = person("lodestaff", "check", SAMPLE, "--json", ">", "first.json")
    _, second = person("lodestaff", "check", SAMPLE, "--json", ">", "second.json")
    person("cmp", "first.json", "second.json")
    print(f"the first check took {first:.1f} s, the second {second:.1f} s")
    if first > 1.6 * second + 0.5:
        raise SystemExit("check: compiled code was not there for the first")
    blocks = json.loads(person("cat", "first.json")[0])["blocks"]
    pages, _ = person("lodestaff", "report", "job.json", "-o", "pack.pdf")
    print(f"{blocks} findings block; {pages.splitlines()[0]}")
    pictures, _ = person("lodestaff", "shots", "pictures")
    print(f"{len(pictures.splitlines())} pictures of the window")
    call(*apt, "remove", "lodestaff")
    left = [file for file in (*FILES, "/usr/lib/lodestaff") if Path(f"{BARE}{file}").exists()]
    if left:
        raise SystemExit(f"check: left behind: {left}")
    print("installed, used without a network, and taken away")
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]).resolve()))
