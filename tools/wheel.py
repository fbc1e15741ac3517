"""`./run wheel`: builds the wheel and tries it in a fresh environment for every Python from 3.11 on that is found here.

The lowest Python gets the lowest versions of what Dromic needs (requirements.lowest), the others the newest.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LOWEST, NEWEST = 11, 15
"""minor versions of Python 3 that are looked for"""


def main() -> int:
    with tempfile.TemporaryDirectory(prefix="dromic-wheel-") as folder:
        wheel = build(Path(folder))
        print(f"{wheel.name}, {wheel.stat().st_size / 1e6:.1f} MB")
        results = [tried(minor, wheel, Path(folder)) for minor in range(LOWEST, NEWEST + 1)]
    if True not in results:
        print("no Python from 3.11 on was found")
    return int(False in results or True not in results)


def build(folder: Path) -> Path:
    """The wheel of this tree, built aside so that nothing is left in it."""
    tree = folder / "tree"
    unwanted = shutil.ignore_patterns(".*", "build", "*.egg-info", "__pycache__", "tests", "bench")
    shutil.copytree(ROOT, tree, ignore=unwanted)
    command = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "-w", folder, tree]
    subprocess.run(command, check=True)
    return next(folder.glob("*.whl"))


def tried(minor: int, wheel: Path, folder: Path) -> bool | None:
    """Whether the wheel does what it should on Python 3.`minor`; None where there is none."""
    python = next(interpreters(minor), None)
    if python is None:
        print(f"Python 3.{minor}: not found here, not tried")
        return None
    began = time.monotonic()
    place = folder / f"env-{minor}"
    own = place / "bin" / "python"
    lowest = ["-c", str(ROOT / "requirements.lowest")] if minor == LOWEST else []
    for command in (
        [python, "-m", "venv", place],
        [own, "-m", "pip", "install", "--quiet", "--disable-pip-version-check", *lowest, wheel],
        [own, "-I", ROOT / "tools" / "installed.py"],
    ):
        done = subprocess.run(command, capture_output=True, text=True, check=False, cwd=folder)
        if done.returncode:
            said = "\n".join(line for line in done.stderr.splitlines() if not line.startswith("WARNING"))
            print(f"Python 3.{minor}: {' '.join(map(str, command))} failed\n{said[-2000:]}")
            return False
    kind = "lowest" if lowest else "newest"
    print(f"Python 3.{minor}, {kind} versions: {done.stdout.strip()} ({time.monotonic() - began:.0f} s)")
    return True


def interpreters(minor: int) -> Iterator[str]:
    """Those of Python 3.`minor` that run: on the path, or where a manager of several keeps them."""
    on_path = shutil.which(f"python3.{minor}")
    beside = Path.home().glob(f".pyenv/versions/3.{minor}*/bin/python3.{minor}")
    for path in ([on_path] if on_path else []) + sorted(map(str, beside), reverse=True):
        if subprocess.run([path, "-c", "import venv, ensurepip"], capture_output=True, check=False).returncode == 0:
            yield path


if __name__ == "__main__":
    sys.exit(main())
