"""Builds the wheel and the Debian package, all inside: nothing is fetched when it is installed.

`./run package` calls it with the project's own Python; what is built lies in `build/package`.
"""

import datetime
import gzip
import os
import re
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BUILD = ROOT / "build"
WHEELHOUSE = BUILD / "wheelhouse"
HERE = Path(__file__).parent
SITE = "usr/lib/lodestaff/site"
PIP = [sys.executable, "-m", "pip", "--disable-pip-version-check", "--no-input"]
LIBRARIES = (
    *("libgl1", "libegl1", "libxkbcommon0", "libdbus-1-3", "libfontconfig1", "libglib2.0-0"),
    *("libxcb-cursor0", "libxcb-icccm4", "libxcb-image0", "libxcb-keysyms1", "libxcb-render-util0"),
    *("libxcb-shape0", "libxcb-xkb1", "libxkbcommon-x11-0"),
)
LAUNCHER = """\
#!/usr/bin/python3 -I
import sys

sys.path.insert(0, "/usr/lib/lodestaff/site")
from lodestaff.main import console

console()
"""
CONTROL = """\
Package: lodestaff
Version: {version}
Section: science
Priority: optional
Architecture: {architecture}
Depends: python3 (>= 3.{minor}), python3 (<< 3.{next}), {libraries}
Installed-Size: {size}
Maintainer: The Lodestaff founders <lodestaff@localhost>
Description: one solar and storage job, from the first visit to the handover
 A working instrument for installers of solar and storage: it sizes batteries
 and inverters, splits critical from other loads, plans the wiring of backup,
 sets limits and commissions the operating modes. All that it needs of Python
 is inside.
"""
# The loops are compiled where they will run, so that the first command takes as long as the second.
POSTINST = """\
#!/bin/sh
set -e
if [ "$1" = configure ]; then
    /usr/bin/python3 -I -m compileall -q -j 2 /usr/lib/lodestaff/site || true
    sample=/usr/lib/lodestaff/site/lodestaff/_samples/larkmoor.json
    for command in check simulate outage; do
        /usr/bin/lodestaff $command $sample > /dev/null 2>&1 || true
    done
fi
"""
PRERM = """\
#!/bin/sh
set -e
find /usr/lib/lodestaff -depth -name __pycache__ -exec rm -rf {} +
"""


def call(*command: object) -> None:
    subprocess.run([str(part) for part in command], check=True, cwd=ROOT)


def wheel() -> Path:
    """The project's wheel."""
    target = BUILD / "wheel"
    shutil.rmtree(target, ignore_errors=True)
    call(*PIP, "wheel", "--quiet", "--no-deps", "--no-build-isolation", "-w", target, ROOT)
    (made,) = target.glob("lodestaff-*.whl")
    return made


def wheelhouse() -> Path:
    """All locked versions as files, checked by their hashes; they are fetched once."""
    locked = ROOT / "requirements.txt"
    done = WHEELHOUSE / "done"
    if not done.exists() or done.read_bytes() != locked.read_bytes():
        shutil.rmtree(WHEELHOUSE, ignore_errors=True)
        call(
            *PIP,
            "download",
            "--quiet",
            "--require-hashes",
            "--only-binary",
            ":all:",
            "-r",
            locked,
            "-d",
            WHEELHOUSE,
        )
        shutil.copy(locked, done)
    return WHEELHOUSE


def version_of(made: Path) -> str:
    with zipfile.ZipFile(made) as archive:
        name = next(one for one in archive.namelist() if one.endswith("/METADATA"))
        found = re.search(r"^Version: (.+)$", archive.read(name).decode(), re.MULTILINE)
    assert found is not None
    return found.group(1)


def put(tree: Path, place: str, content: str | bytes, mode: int = 0o644) -> None:
    path = tree / place
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    path.chmod(mode)


def desktop_files(tree: Path, version: str) -> None:
    """What the desktop, the shells and `man` look for."""
    sys.path.insert(0, str(ROOT / "src"))
    from lodestaff.cli import completion

    icon = (ROOT / "src/lodestaff/assets/icons/lodestaff.svg").read_bytes()
    today = datetime.date.today().isoformat()
    metainfo = (
        (HERE / "lodestaff.metainfo.xml").read_text().replace("@VERSION@", version).replace("@DATE@", today)
    )
    share = "usr/share"
    put(tree, f"{share}/applications/lodestaff.desktop", (HERE / "lodestaff.desktop").read_bytes())
    put(tree, f"{share}/mime/packages/lodestaff.xml", (HERE / "lodestaff.xml").read_bytes())
    put(tree, f"{share}/metainfo/lodestaff.metainfo.xml", metainfo)
    put(tree, f"{share}/icons/hicolor/scalable/apps/lodestaff.svg", icon)
    put(tree, f"{share}/man/man1/lodestaff.1.gz", gzip.compress(completion.manual().encode(), mtime=0))
    put(tree, f"{share}/bash-completion/completions/lodestaff", completion.script("bash"))
    put(tree, f"{share}/zsh/vendor-completions/_lodestaff", completion.script("zsh"))
    put(tree, f"{share}/fish/vendor_completions.d/lodestaff.fish", completion.script("fish"))
    changes = gzip.compress((ROOT / "CHANGELOG.md").read_bytes(), mtime=0)
    put(tree, f"{share}/doc/lodestaff/changelog.gz", changes)
    put(tree, f"{share}/doc/lodestaff/copyright", (ROOT / "LICENSE").read_bytes())


def deb() -> Path:
    """The Debian package."""
    made, house = wheel(), wheelhouse()
    version = version_of(made)
    tree = BUILD / "tree"
    shutil.rmtree(tree, ignore_errors=True)
    call(
        *PIP,
        "install",
        "--quiet",
        "--no-index",
        "--find-links",
        house,
        "--no-compile",
        "--target",
        tree / SITE,
        made,
    )
    shutil.rmtree(tree / SITE / "bin", ignore_errors=True)
    put(tree, "usr/bin/lodestaff", LAUNCHER, 0o755)
    desktop_files(tree, version)
    minor = sys.version_info.minor
    size = sum(path.stat().st_size for path in tree.rglob("*") if path.is_file()) // 1024
    architecture = subprocess.run(
        ["dpkg", "--print-architecture"], capture_output=True, text=True, check=True
    )
    control = CONTROL.format(
        version=version, architecture=architecture.stdout.strip(), minor=minor, next=minor + 1,
        libraries=", ".join(LIBRARIES), size=size,
    )  # fmt: skip
    put(tree, "DEBIAN/control", control)
    put(tree, "DEBIAN/postinst", POSTINST, 0o755)
    put(tree, "DEBIAN/prerm", PRERM, 0o755)
    for path in tree.rglob("*"):
        path.chmod(0o755 if path.is_dir() or os.access(path, os.X_OK) else 0o644)
    target = BUILD / "package" / f"lodestaff_{version}_{architecture.stdout.strip()}.deb"
    target.parent.mkdir(parents=True, exist_ok=True)
    call("dpkg-deb", "--root-owner-group", "-Zxz", "-z1", "--build", tree, target)
    shutil.copy(made, target.parent)
    return target


if __name__ == "__main__":
    print(wheelhouse() if sys.argv[1:] == ["wheelhouse"] else deb())
