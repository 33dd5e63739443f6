"""Temporary folders that know whose they are, so that those of the dead can be swept away."""

import os
import re
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_PREFIX = "hemp-ladder-"
_NAME = re.compile(rf"{_PREFIX}(\d+)-(\d+)-")


@contextmanager
def working_folder() -> Iterator[Path]:
    """A folder that goes afterwards, or with the next sweep if this process is killed meanwhile."""
    with tempfile.TemporaryDirectory(prefix=f"{_PREFIX}{os.getpid()}-{_born(os.getpid())}-") as folder:
        yield Path(folder)


def sweep() -> int:
    """Remove the folders of processes that are gone; how many there were."""
    swept = 0
    for folder in Path(tempfile.gettempdir()).glob(f"{_PREFIX}*"):
        owner = _NAME.match(folder.name)
        if owner and _born(int(owner[1])) != int(owner[2]) and folder.is_dir() and not folder.is_symlink():
            shutil.rmtree(folder, ignore_errors=True)
            swept += 1
    return swept


def _born(pid: int) -> int:
    """When a process began, in the kernel's ticks; 0 for one that is gone."""
    try:
        return int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19])
    except (OSError, IndexError):
        return 0
