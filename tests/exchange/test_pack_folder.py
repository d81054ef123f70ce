"""A pack on disk: whole or not at all, no link followed, nothing of anybody else's touched."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.errors import Conflict, InvalidInput, NotFound, ReedlingError
from reedling.exchange.library_pack import generate_pack, parse_pack
from reedling.exchange.pack_folder import read_pack, write_pack
from tests.exchange.test_library_pack import PACK

FILES = generate_pack(PACK)


def everything(folder: Path) -> dict[str, bytes]:
    return {str(p.relative_to(folder)): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def test_what_is_written_reads_back(tmp_path: Path) -> None:
    folder = tmp_path / "a" / "b"
    write_pack(folder, FILES)
    assert {k: v.decode() for k, v in read_pack(folder).items()} == FILES
    write_pack(folder, {k: v for k, v in FILES.items() if not k.startswith("documents/")})
    assert not (folder / "documents").exists()


@pytest.mark.parametrize(
    "inside", ["notes.txt", "catalogue/parts.json", "library.json", "documents/X/A.json"]
)
def test_a_folder_of_somebody_elses_is_left_alone(tmp_path: Path, inside: str) -> None:
    (tmp_path / inside).parent.mkdir(parents=True, exist_ok=True)
    (tmp_path / inside).write_text("mine")
    before = everything(tmp_path)
    with pytest.raises(Conflict, match="no export wrote it"):
        write_pack(tmp_path, FILES)
    assert everything(tmp_path) == before


@pytest.mark.parametrize(
    "place", ["", "catalogue", "documents", "documents/WP-001", "library.json", ".reedling-new"]
)
def test_no_link_is_followed(tmp_path: Path, place: str) -> None:
    outside = tmp_path / "outside"
    outside.mkdir()
    (outside / "parts.json").write_text("precious")
    folder = tmp_path / "pack"
    if place:
        write_pack(folder, FILES)
        target = folder / place
        if target.is_dir():
            for path in sorted(target.rglob("*"), reverse=True):
                path.unlink() if path.is_file() else path.rmdir()
            target.rmdir()
        target.unlink(missing_ok=True)
        target.symlink_to(outside)
    else:
        folder.symlink_to(outside)
    with pytest.raises(Conflict, match="link"):
        write_pack(folder, FILES)
    assert everything(outside) == {"parts.json": b"precious"}
    if place in ("catalogue", "documents", "documents/WP-001", "library.json"):
        with pytest.raises(InvalidInput, match="link"):
            read_pack(folder)


def test_a_full_disk_leaves_the_old_pack(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    write_pack(tmp_path, FILES)
    before = everything(tmp_path)
    renamed = Path.rename

    def rename(self: Path, target: Path) -> Path:
        if self.parent.name == ".reedling-new" and self.name == "documents":
            raise OSError(28, os.strerror(28))
        return renamed(self, target)

    monkeypatch.setattr(Path, "rename", rename)
    with pytest.raises(OSError, match="No space"):
        write_pack(tmp_path, {**FILES, "library.json": "changed"})
    monkeypatch.undo()
    assert everything(tmp_path) == before


def test_a_folder_that_is_not_there_is_named(tmp_path: Path) -> None:
    with pytest.raises(NotFound, match="there is no folder"):
        read_pack(tmp_path / "none")


def damaged(path: str, data: bytes) -> list[tuple[str, str]]:
    files: dict[str, str | bytes] = {**FILES, path: data}
    with pytest.raises(InvalidInput) as caught:
        parse_pack(files)
    return [(p.path, p.message) for p in caught.value.problems]


PLAN = "documents/WP-001/A.json"


@pytest.mark.parametrize(
    ("path", "data", "told"),
    [
        (PLAN, "{“}".encode("latin-1", "replace") + b"\xff", "this is not JSON"),
        (PLAN, b'{"x": ' + b"1" * 5000 + b"}", "not JSON that can be read"),
        (PLAN, b"[" * 100_000, "deep"),
        (PLAN, b'{"document": NaN}', "NaN is not a number"),
        (PLAN, FILES[PLAN].replace('"letter": "A"', '"letter": "a1"').encode(), "no document and letter"),
        (PLAN, FILES[PLAN].replace('"note"', '"nota"').encode(), "there is no “nota” here"),
        (PLAN, FILES[PLAN].replace('"document": "WP-001"', '"document": "../x"').encode(), "no document"),
        ("library.json", b'{"format": "reedling-library", "version": 0}', "this reads reedling-library 3"),
        ("library.json", b'{"format": "reedling-library", "version": 3, "by": "x"}', "there is no “by” here"),
        ("catalogue/parts.json", b"null", ""),
    ],
)
def test_a_damaged_file_is_named_with_a_sentence(path: str, data: bytes, told: str) -> None:
    found = damaged(path, data)
    assert [p for p, _ in found if p.startswith(path.removesuffix(".json"))]
    assert any(told in message for _, message in found)


@given(st.sampled_from(sorted(FILES)), st.binary(max_size=60), st.integers(0, 400))
def test_no_bytes_bring_the_reader_down(path: str, data: bytes, at: int) -> None:
    text = FILES[path].encode()
    files: dict[str, str | bytes] = {**FILES, path: text[:at] + data + text[at + len(data) :]}
    with suppress(ReedlingError):
        parse_pack(files)
