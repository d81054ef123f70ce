"""Export and import: round trip without a difference, everything or nothing."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import date
from pathlib import Path

import pytest
from PIL import Image

from reedling.core.guidance.editing import AddStep
from reedling.core.guidance.plans import Plan
from reedling.core.logic.conditions import Comparison, Conjunction
from reedling.demo.loader import demo_pack
from reedling.errors import InvalidInput
from reedling.exchange.library_pack import LibraryPack, generate_pack, parse_pack
from reedling.services.actions.documents import begin_draft, create_incident_type
from reedling.services.actions.drafts import edit_draft
from reedling.services.actions.illustrations import keep_illustration
from reedling.services.actions.library import ImportReport, import_library
from reedling.services.context import Context
from reedling.services.views.documents import plan_document
from reedling.services.views.library import export_library
from reedling.services.views.pack_checks import check_library
from reedling.services.views.pictures import illustration_data
from reedling.services.views.shelf import shelf
from reedling.wiring import open_context
from tests.conftest import INES

TODAY = date(2026, 6, 1)


def test_the_demo_goes_out_and_into_an_empty_library_without_a_difference(
    demo_dir: Path, tmp_path: Path
) -> None:
    source = open_context(demo_dir)
    begin = begin_draft(source, INES, "WP-001")
    edit_draft(
        source,
        INES,
        "WP-001",
        AddStep(text="Look round", phase="Arrive"),
        plan_document(source, "WP-001").etag,
    )
    files = generate_pack(export_library(source))
    assert f"documents/WP-001/{begin}.json" in files
    other = open_context(tmp_path / "other")
    report = import_library(other, export_library(source))
    assert report.n_added == len([f for f in files if f.startswith("documents/")])
    assert generate_pack(export_library(other)) == files
    assert import_library(other, export_library(source)).n_same == report.n_added


def test_importing_twice_changes_nothing(context: Context) -> None:
    first = import_library(context, demo_pack())
    assert import_library(context, demo_pack()) == ImportReport(n_added=0, n_changed=0, n_same=first.n_added)


def test_identities_go_on_after_those_imported(context: Context) -> None:
    import_library(context, demo_pack())
    assert create_incident_type(context, INES, "New", None) == "IT-005"


def tampered(document: str, letter: str, title: str) -> LibraryPack:
    pack = demo_pack()

    def change(content: object) -> object:
        assert isinstance(content, Plan)
        return replace(content, title=title)

    revisions = tuple(
        (head, change(content) if (head.document, head.letter) == (document, letter) else content)
        for head, content in pack.revisions
    )
    return replace(pack, revisions=revisions)  # type: ignore[arg-type]


def test_a_released_revision_with_other_content_is_refused_and_nothing_comes_in(context: Context) -> None:
    pack = demo_pack()
    without = replace(
        pack, revisions=tuple(r for r in pack.revisions if not r[0].document.startswith(("IT", "FG")))
    )
    import_library(context, without)
    with pytest.raises(InvalidInput) as caught:
        import_library(context, tampered("WP-001", "B", "Other"))
    assert [p.path for p in caught.value.problems] == ["documents/WP-001/B.json"]
    assert "a released revision never changes" in str(caught.value)
    assert shelf(context) == ()


def test_a_released_plan_that_is_unsound_is_refused_with_its_place(context: Context) -> None:
    with pytest.raises(InvalidInput) as caught:
        import_library(context, tampered("WP-002", "A", ""))
    assert [p.path for p in caught.value.problems] == ["documents/WP-002/A.json#/content/title"]


def test_a_released_plan_with_a_step_nobody_can_reach_is_refused(context: Context) -> None:
    pack = demo_pack()
    clauses = (
        Comparison(question="bar", operator="below", value=90.0),
        Comparison(question="bar", operator="above", value=120.0),
    )

    def contradict(content: object) -> object:
        assert isinstance(content, Plan)
        never = Conjunction(parts=clauses)
        steps = tuple(replace(s, condition=never) if s.id == "clear" else s for s in content.steps)
        return replace(content, steps=steps)

    revisions = tuple(
        (head, contradict(content) if (head.document, head.letter) == ("WP-001", "B") else content)
        for head, content in pack.revisions
    )
    with pytest.raises(InvalidInput, match="can never be asked") as caught:
        import_library(context, replace(pack, revisions=revisions))  # type: ignore[arg-type]
    assert [p.path for p in caught.value.problems] == ["documents/WP-001/B.json#/content/steps/6/condition"]
    assert shelf(context) == ()


def test_pictures_of_instructions_go_out_and_in_with_the_library(context: Context, tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.new("RGB", (20, 20), "tan").save(out, "PNG")
    kept = keep_illustration(context, INES, "Where the gauge sits", out.getvalue())
    files = generate_pack(export_library(context))
    assert f"illustrations/{kept.id}.json" in files
    other = open_context(tmp_path / "other")
    import_library(other, parse_pack(files))
    found, data = illustration_data(other, kept.id)
    assert (found.title, data) == ("Where the gauge sits", out.getvalue())
    files[f"illustrations/{kept.id}.json"] = files[f"illustrations/{kept.id}.json"].replace(
        '"data": "', '"data": "AAAA'
    )
    with pytest.raises(InvalidInput, match="its bytes are not those its name says"):
        parse_pack(files)


def test_a_tree_with_a_loop_is_not_imported(context: Context) -> None:
    pack = demo_pack()
    classes = tuple(
        replace(c, parent="conveyor") if c.code == "screening" else c for c in pack.catalogue.equipment
    )
    looped = replace(pack, catalogue=replace(pack.catalogue, equipment=classes))
    with pytest.raises(InvalidInput) as refused:
        import_library(context, looped)
    assert [(p.code, p.path) for p in refused.value.problems] == [
        ("catalogue.loop", "catalogue/equipment/screening")
    ]
    with context.store.reading() as unit:
        assert unit.documents.of_kind("plan") == ()


def test_a_released_table_that_names_nothing_that_is_there_is_not_imported(context: Context) -> None:
    pack = demo_pack()
    without = tuple((h, c) for h, c in pack.revisions if h.document not in ("WP-002", "IT-002"))
    with pytest.raises(InvalidInput) as refused:
        import_library(context, replace(pack, revisions=without))
    assert [(p.code, p.path) for p in refused.value.problems] == [
        ("tables.document", "documents/DT-001/A.json#/content/rows/1/documents")
    ]


def with_state(pack: LibraryPack, document: str, state: str, letter: str | None = None) -> LibraryPack:
    return replace(
        pack,
        revisions=tuple(
            (replace(h, state=state) if h.document == document and letter in (None, h.letter) else h, c)  # type: ignore[arg-type]
            for h, c in pack.revisions
        ),
    )


def refusal(context: Context, pack: LibraryPack) -> list[str]:
    with pytest.raises(InvalidInput) as refused:
        import_library(context, pack)
    return [p.message for p in refused.value.problems]


def test_an_import_that_names_a_missing_plan_is_refused_and_check_says_the_same(context: Context) -> None:
    pack = demo_pack()
    without = replace(pack, revisions=tuple(p for p in pack.revisions if p[0].document != "WP-001"))
    assert "There is no work plan WP-001." in refusal(context, without)
    assert "There is no work plan WP-001." in [p.message for p in check_library(without, TODAY)]
    drafted = with_state(pack, "WP-001", "Superseded")
    assert "There is no work plan WP-001." in refusal(context, drafted)
    assert "There is no work plan WP-001." in [p.message for p in check_library(drafted, TODAY)]
    with context.store.reading() as unit:
        assert unit.documents.of_kind("plan") == ()


def test_an_import_does_not_take_away_what_an_incident_type_in_force_names(context: Context) -> None:
    pack = demo_pack()
    import_library(context, pack)
    only = tuple(p for p in with_state(pack, "WP-001", "Withdrawn").revisions if p[0].document == "WP-001")
    assert refusal(context, replace(pack, revisions=only)) == [
        "IT-001 is in force here and names WP-001, which would not be."
    ]
    both = tuple(
        pair
        for pair in with_state(with_state(pack, "WP-001", "Withdrawn"), "IT-001", "Withdrawn").revisions
        if pair[0].document in ("WP-001", "IT-001")
    )
    assert import_library(context, replace(pack, revisions=both)).n_changed > 0


def test_a_released_note_and_an_ended_revision_are_not_rewritten(context: Context) -> None:
    pack = demo_pack()
    import_library(context, pack)
    released = next(h for h, _ in pack.revisions if h.document == "WP-001" and h.state == "Released")
    noted = replace(
        pack,
        revisions=tuple((replace(h, note="Rewritten") if h == released else h, c) for h, c in pack.revisions),
    )
    assert refusal(context, noted) == [
        f"WP-001 {released.letter} was released here with another note, and a released revision never changes."
    ]
    other = replace(
        pack,
        revisions=tuple(
            (replace(h, state="Superseded" if h == released else "Released"), c)
            if h.document == "WP-001"
            else (h, c)
            for h, c in pack.revisions
        ),
    )
    assert any("does not come back into force" in message for message in refusal(context, other))


def test_codes_that_stand_twice_are_refused_by_check_and_import_alike(context: Context) -> None:
    pack = demo_pack()
    twice = replace(
        pack, catalogue=replace(pack.catalogue, parts=(*pack.catalogue.parts, pack.catalogue.parts[0]))
    )
    code = pack.catalogue.parts[0].code
    assert f"{code} stands 2 times." in refusal(context, twice)
    assert f"{code} stands 2 times." in [p.message for p in check_library(twice, TODAY)]
