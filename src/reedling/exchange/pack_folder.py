"""A library pack on disk: written whole or not at all, and only where nothing else is put at risk."""

from __future__ import annotations

import shutil
from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path

from reedling.errors import Conflict, InvalidInput, NotFound, Problem

MARKER = ".reedling-library"
"""The file that says a folder was written by an export; it lists what the export wrote."""
PARTS = ("catalogue", "documents", "illustrations")
HEAD = "library.json"
MAX_FILE_BYTES = 40_000_000


def read_pack(folder: Path) -> dict[str, bytes]:
    """The files of a pack, by their path with forward slashes; links are not followed.

    Raises
    ------
    NotFound
        ``library.folder`` when there is no such folder.
    InvalidInput
        ``library.broken`` for a link, or a file too large to be one of a pack.
    """
    if not folder.is_dir():
        raise NotFound("library.folder", f"there is no folder {folder}.", hint="Say where the library is.")
    problems: list[Problem] = []
    files: dict[str, bytes] = {}
    for path in _files(folder):
        name = path.relative_to(folder).as_posix()
        if path.is_symlink():
            problems.append(_broken(name, "this is a link, and a library holds files."))
        elif path.stat().st_size > MAX_FILE_BYTES:
            problems.append(_broken(name, f"this file is larger than {MAX_FILE_BYTES / 1e6:.0f} MB."))
        else:
            files[name] = path.read_bytes()
    if problems:
        raise InvalidInput(
            "library.broken", problems[0].message, where=problems[0].path, problems=tuple(problems)
        )
    return files


def _broken(path: str, message: str) -> Problem:
    return Problem(code="library.file", path=path, message=message)


def _files(folder: Path) -> Iterator[Path]:
    """The head, and the files of each part; what else lies in the folder is no part of a pack."""
    head = folder / HEAD
    if head.is_symlink() or head.is_file():
        yield head
    for part in PARTS:
        here = folder / part
        if here.is_symlink():
            yield here
        else:
            yield from (
                p for p in sorted(here.rglob("*")) if p.is_symlink() or (p.is_file() and p.suffix == ".json")
            )


def write_pack(folder: Path, files: Mapping[str, str]) -> None:
    """Write a pack into a folder that is empty, or that an export wrote; what is not the pack's stays.

    The new files are written beside the old ones and put in their place at the end; should that fail,
    the old ones are put back.

    Raises
    ------
    Conflict
        ``library.not_ours`` for a folder with something else in it, or with files among the pack's that
        no export wrote; ``library.link`` where a link stands in the way. Nothing is changed then.
    """
    _check_target(folder)
    folder.mkdir(parents=True, exist_ok=True)
    new, old = folder / ".reedling-new", folder / ".reedling-old"
    for left_over in (new, old):
        if left_over.is_symlink():
            raise _link(left_over)
        shutil.rmtree(left_over, ignore_errors=True)
    try:
        for name, text in files.items():
            path = new / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text, encoding="utf-8")
        (new / MARKER).write_text("".join(f"{name}\n" for name in sorted(files)), encoding="utf-8")
        _swap(folder, new, old)
    finally:
        shutil.rmtree(new, ignore_errors=True)
        shutil.rmtree(old, ignore_errors=True)


def _check_target(folder: Path) -> None:
    if folder.is_symlink():
        raise _link(folder)
    if not folder.exists():
        return
    if not folder.is_dir():
        raise _not_ours(folder, "it is a file.")
    marker = folder / MARKER
    for path in (marker, folder / HEAD, *(folder / part for part in PARTS)):
        if path.is_symlink():
            raise _link(path)
    if not marker.is_file():
        if any(folder.iterdir()):
            raise _not_ours(folder, "it holds something, and no export wrote it.")
        return
    ours = set(marker.read_text("utf-8").splitlines())
    for part in PARTS:
        for path in (folder / part).rglob("*"):
            if path.is_symlink():
                raise _link(path)
            name = path.relative_to(folder).as_posix()
            if path.is_file() and name not in ours:
                raise _not_ours(folder, f"{name} was not written by an export.")


def _swap(folder: Path, new: Path, old: Path) -> None:
    """Every part from its new place to its own, the old ones aside until all is done."""
    old.mkdir()
    names = (HEAD, *PARTS, MARKER)
    aside: list[str] = []
    placed: list[str] = []
    try:
        for name in names:
            if (folder / name).exists():
                (folder / name).rename(old / name)
                aside.append(name)
            if (new / name).exists():
                (new / name).rename(folder / name)
                placed.append(name)
    except OSError:
        for name in placed:
            with suppress(OSError):
                (folder / name).rename(new / name)
        for name in aside:
            with suppress(OSError):
                (old / name).rename(folder / name)
        raise


def _link(path: Path) -> Conflict:
    return Conflict(
        "library.link",
        "this is a link, and an export does not follow one.",
        where=str(path),
        hint="Take it away.",
    )


def _not_ours(folder: Path, why: str) -> Conflict:
    return Conflict("library.not_ours", why, where=str(folder), hint="Name an empty folder, or a new one.")
