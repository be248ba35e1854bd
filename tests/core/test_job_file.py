"""The job's file, its journal and its store: whole or not at all, and as far as it goes."""

from __future__ import annotations

import errno
import json
import os
import struct
import time
import zipfile
from dataclasses import replace
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import zoo
from gullyrise.core import safe_files
from gullyrise.core.checks.registry import part_digest
from gullyrise.core.errors import JobChanged, JobError, NotKept
from gullyrise.core.geometry import Transform
from gullyrise.core.job import Document, Job, PlacedPart
from gullyrise.core.job.aside import bring_back, is_mapped, lay_aside
from gullyrise.core.job.differences import differences
from gullyrise.core.job.file import is_job_file, open_file, save, thumbnail_of
from gullyrise.core.job.form import as_bytes, form_from, form_of, job_from
from gullyrise.core.job.journal import Journal, left_behind
from gullyrise.core.job.origins import FileOrigin, KeptFile, Repairs, Stretch
from gullyrise.core.job.placed_part import Hull
from gullyrise.core.job.placing import arranged, with_copies
from gullyrise.core.job.schema import schema
from gullyrise.core.job.store import Store, digest_of
from gullyrise.core.job.views import SavedView
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.placing.packing import Packed
from gullyrise.core.progress import silent
from gullyrise.core.reading import ReadOptions, read
from gullyrise.core.safe_files import write_safely
from gullyrise.core.writing import write
from gullyrise.workers.work import Read, Received

VIEW = SavedView("Close", (1.0, 2, 3), 30, 20, 90, True, 0, 30, (1.0, 1, 1), b"\x89PNG")


def placed(number: int, sides: tuple[float, float, float] = (10.0, 20, 5)) -> PlacedPart:
    part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (sides[0] + number, *sides[1:]))), f"p{number}")
    origin = FileOrigin(file=KeptFile(name=f"p{number}.stl", digest=f"{number:032x}"), path=f"/parts/p{number}.stl")
    return PlacedPart(
        number, part, part.box, {}, part_digest(part), Transform.identity(), hull=Hull(part.whole().vertices), origin=origin
    )


def fresh() -> Job:
    return Job(default_machine(), tuple(library()))


def kept_job(folder: Path, count: int = 3) -> tuple[Job, Store]:
    """A job of files whose bytes are in a store."""
    store = Store(folder / "store")
    job = fresh()
    for number in range(1, count + 1):
        one = placed(number)
        write(one.part, folder / f"p{number}.stl")
        job = job.with_parts([replace(one, origin=store.origin_of(folder / f"p{number}.stl")[0])])
    turn = Transform.turned(np.array([0.3, 0.2, 1.0]), 33.3)
    fixture = replace(placed(count + 1), origin=FixtureShape(shape="cylinder", size=(8, 30)))
    job = job.with_parts([fixture]).moved([1], turn).with_view(VIEW).with_limit("min_wall", 1.25)
    return replace(job.noted("a note").noted("another", [1]), beds=2), store


# --- undo --------------------------------------------------------------------------------------------------------------

ACTIONS = st.lists(st.tuples(st.integers(0, 11), st.integers(0, 5), st.floats(-40, 40)), min_size=200, max_size=200)


def _act(job: Job, kind: int, which: int, value: float, count: int) -> Job:
    """One of the things that a person does to a job."""
    if kind <= 1 or not job.parts:
        return job.with_parts([placed(1 + max((one.id for one in job.parts), default=0), (8 + abs(value), 9, 7))])
    one = job.parts[which % len(job.parts)]
    if kind == 2:
        return job.moved([one.id], Transform.moved(np.array([value, -value / 3, abs(value)])))
    if kind == 3:
        return job.moved([one.id], Transform.turned(np.array([1.0, value, 2]), value * 4))
    if kind == 4:
        return job.without({one.id}) if len(job.parts) > 2 else job
    if kind == 5:
        return with_copies(job, [one.id], 1 + which % 2, abs(value)) if len(job.parts) < 40 else job
    if kind == 6:
        return job.placed([one.as_it_came()])
    if kind == 7:
        return job.on(machine_named(["dipper-260", "heron-220", "alder-mill", "lantern-130"][which % 4]))
    if kind == 8:
        return job.with_limit("min_gap", abs(value) / 10)
    if kind == 9:
        name = f"View {which}"
        return job.without_view(name) if value < 0 else job.with_view(replace(VIEW, name=name, span=1 + abs(value)))
    if kind == 10:
        moves = {other.id: Transform.moved(np.array([value, n, 0.0])) for n, other in enumerate(job.parts)}
        return arranged(job, Packed(moves, {id: id % 2 for id in moves}, (), np.zeros(2)))
    step = Stretch(linear=((1.0 + abs(value), 0, 0), (0, 1.0, 0), (0, 0, 2.0)))
    return job.with_replaced(replace(one, steps=(*one.steps, step), material="steel"), f"note {count}")


@pytest.mark.slow
@settings(
    max_examples=12,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.large_base_example, HealthCheck.data_too_large],
)
@given(ACTIONS)
def test_two_hundred_actions_undone_give_the_first_job_byte_for_byte_and_redone_the_last(
    actions: list[tuple[int, int, float]],
) -> None:
    document = Document(fresh().with_parts([placed(1)]))
    first = as_bytes(form_of(document.job))
    for count, (kind, which, value) in enumerate(actions):
        document.edit(
            f"Action {kind}", lambda job, a=(kind, which, value, count): _act(job, *a), ("merge", kind) if kind == 2 else None
        )
    last = as_bytes(form_of(document.job))
    while document.undo():
        pass
    assert as_bytes(form_of(document.job)) == first
    while document.redo():
        pass
    assert as_bytes(form_of(document.job)) == last


def test_drags_in_a_row_are_undone_together_and_a_library_is_no_edit() -> None:
    document = Document(fresh().with_parts([placed(1)]))
    start = document.job
    for _ in range(5):
        document.edit("Nudge", lambda job: job.moved([1], Transform.moved(np.array([1.0, 0, 0]))), ("nudge", 0))
    assert document.job.parts[0].placement.matrix[0, 3] == pytest.approx(start.parts[0].placement.matrix[0, 3] + 5)
    shelf = tuple(library())[:2]
    document.amend(lambda job: replace(job, library=shelf))
    document.undo()
    assert document.undo_name is None and document.job.library is shelf
    assert as_bytes(form_of(document.job)) == as_bytes(form_of(start))


# --- form and file -----------------------------------------------------------------------------------------------------


def test_a_job_comes_back_from_its_file_as_it_was(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    steps = (Repairs(mends=("join", "holes")), Stretch(linear=((2.0, 0, 0), (0, 2.0, 0), (0, 0, 2.0))))
    job = job.with_changed([replace(job.parts[1], steps=steps, material="brass", copy=4)])
    form = form_of(job, "The job")
    path = tmp_path / "job.gullyrise"
    save(form, store, b"\x89PNG picture", path)
    opened = open_file(path, Store(tmp_path / "other"))
    assert opened.form == form and not opened.lost and thumbnail_of(path) == b"\x89PNG picture" and is_job_file(path)
    for number in range(1, 4):
        digest = job.parts[number - 1].origin.file.digest  # type: ignore[union-attr]
        assert (tmp_path / "other" / digest).read_bytes() == (tmp_path / f"p{number}.stl").read_bytes()
    back = job_from(form, dict(enumerate(job.parts)), job.library)
    assert as_bytes(form_of(back, "The job")) == as_bytes(form) and len(back.parts) == 4
    assert all((a.placement.matrix == b.placement.matrix).all() for a, b in zip(job.parts, back.parts, strict=True))


def test_copies_of_one_part_are_kept_once(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path, 1)
    job = with_copies(job, [1], 50, 2.0)
    form = form_of(job)
    assert len(form.parts) == 2 and len(form.stands) == 52
    save(form, store, b"", tmp_path / "j.gullyrise")
    assert len(zipfile.ZipFile(tmp_path / "j.gullyrise").namelist()) == 3


def test_the_schema_in_the_docs_is_that_of_the_code_and_an_independent_reader_agrees_with_it(tmp_path: Path) -> None:
    written = json.loads((Path(__file__).parents[2] / "docs" / "job.schema.json").read_text(encoding="utf-8"))
    assert written == schema()
    job, _ = kept_job(tmp_path)
    data = json.loads(as_bytes(form_of(job, "x")))
    jsonschema.validate(data, written)
    for broken in ({**data, "beds": 0}, {**data, "colour": 1}, {key: data[key] for key in data if key != "machine"}):
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(broken, written)


def test_a_job_of_a_newer_form_is_refused_politely(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    path = tmp_path / "new.gullyrise"
    save(form_of(job), store, b"", path)
    data = json.loads(as_bytes(form_of(job)))
    newer = json.dumps({**data, "schema": "gullyrise.job/7", "things": [1]})
    with zipfile.ZipFile(path) as archive, zipfile.ZipFile(tmp_path / "newer.gullyrise", "w") as out:
        for name in archive.namelist():
            out.writestr(name, newer if name == "job.json" else archive.read(name))
    before = (tmp_path / "newer.gullyrise").read_bytes()
    with pytest.raises(JobError, match=r"newer Gullyrise \(job form 7"):
        open_file(tmp_path / "newer.gullyrise", Store(tmp_path / "s2"))
    assert (tmp_path / "newer.gullyrise").read_bytes() == before


def _spoil(path: Path, name: str) -> None:
    """Turns bits in the middle of a member."""
    with zipfile.ZipFile(path) as archive:
        entry = archive.getinfo(name)
    data = bytearray(path.read_bytes())
    start = entry.header_offset + 30 + struct.unpack("<HH", data[entry.header_offset + 26 : entry.header_offset + 30])[0]
    for place in range(start + entry.compress_size // 3, start + entry.compress_size // 3 + 8):
        data[place] ^= 0xFF
    path.write_bytes(bytes(data))


def test_a_damaged_job_opens_as_far_as_it_goes_and_says_what_is_lost(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)
    whole = path.read_bytes()
    lost = job.parts[1].origin.file.digest  # type: ignore[union-attr]
    _spoil(path, f"parts/{lost}")
    opened = open_file(path, Store(tmp_path / "a"))
    assert opened.form == form_of(job) and len(opened.lost) == 1 and "p2 is lost" in opened.lost[0]
    assert not (tmp_path / "a" / lost).exists()
    path.write_bytes(whole)
    _spoil(path, "job.json")
    opened = open_file(path, Store(tmp_path / "b"))
    assert opened.form is None and len(opened.files) == 3 and "placed" not in opened.lost[0] and "lost" in opened.lost[0]


def test_a_job_that_breaks_off_is_saved_up_to_there(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"\x89PNG", path)
    whole = path.read_bytes()
    with zipfile.ZipFile(path) as archive:
        ends = [entry.header_offset for entry in archive.infolist()]
    found = set()
    for share in np.linspace(0, 1, 40):
        path.write_bytes(whole[: int(share * (len(whole) - 1))])
        try:
            opened = open_file(path, Store(tmp_path / f"s{share:.3f}"))
        except JobError as error:
            assert len(str(error)) > 20 and int(share * len(whole)) <= ends[1] + 200
            continue
        assert opened.form == form_of(job) and "breaks off" in opened.lost[0]
        found.add(len(opened.lost))
    assert found >= {1, 4}, "from all three parts lost to none"


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"PK\x03\x04" + b"\x00" * 200, b"solid x", bytes(range(256)) * 40])
def test_what_is_no_job_gets_a_sentence(data: bytes, tmp_path: Path) -> None:
    path = tmp_path / "x.gullyrise"
    path.write_bytes(data)
    with pytest.raises(JobError) as caught:
        open_file(path, Store(tmp_path / "s"))
    assert "x.gullyrise" in str(caught.value)
    with pytest.raises(JobError, match="check its path"):
        open_file(tmp_path / "nowhere.gullyrise", Store(tmp_path / "s"))


def test_a_hostile_job_reaches_nothing_outside_itself(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    one = job.parts[0]
    assert isinstance(one.origin, FileOrigin)
    outside = KeptFile(name="../../escaped.stl", digest=one.origin.file.digest)
    with pytest.raises(JobError, match="outside itself"):
        store.laid_out(FileOrigin(file=outside), tmp_path / "out")
    assert not (tmp_path.parent / "escaped.stl").exists()
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)
    with zipfile.ZipFile(path, "a") as archive:
        archive.writestr("../../evil", b"x")
    with pytest.raises(JobError):
        open_file(path, Store(tmp_path / "s"))
    # A member that is not what its name says is not taken.
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("job.json", as_bytes(form_of(job)))
        archive.writestr(f"parts/{one.origin.file.digest}", b"another file")
    assert "p1 is lost" in " ".join(open_file(path, Store(tmp_path / "s")).lost)


def test_a_part_is_laid_out_with_what_belongs_to_it(tmp_path: Path) -> None:
    write(placed(1).part, tmp_path / "p.glb")
    from trimesh import load

    mesh = load(tmp_path / "p.glb", force="mesh")
    folder = tmp_path / "gltf"
    folder.mkdir()
    for name, data in mesh.scene().export(file_type="gltf").items():
        (folder / name).write_bytes(data)
    store = Store(tmp_path / "store")
    origin, _ = store.origin_of(folder / "model.gltf")
    assert len(origin.belongs) >= 1
    out = tmp_path / "out"
    out.mkdir()
    again = read(store.laid_out(origin, out))
    assert again.whole().signed_volume == pytest.approx(read(folder / "model.gltf").whole().signed_volume)
    store.path_of(origin.file.digest).unlink()
    with pytest.raises(JobError, match="not in the job any more"):
        store.laid_out(origin, tmp_path / "out2")


def test_a_part_whose_bytes_cannot_be_kept_is_read_all_the_same(tmp_path: Path) -> None:
    write(placed(1).part, tmp_path / "p.stl")
    (tmp_path / "taken").write_bytes(b"a file where the store would be")

    def read_into(store: str) -> Received:
        work = Read(str(tmp_path / "p.stl"), ReadOptions(), 300.0, str(tmp_path / store))
        return work.beforehand(silent).run(silent)

    found = read_into("taken")
    assert "could not be kept" in found.unkept and found.part.triangles == 12
    # It is saved from where it was read, as long as it is the same.
    form = form_of(fresh().with_parts([replace(placed(1), origin=found.origin)]))
    save(form, Store(tmp_path / "taken"), b"", tmp_path / "j.gullyrise")
    assert not open_file(tmp_path / "j.gullyrise", Store(tmp_path / "s")).lost
    (tmp_path / "p.stl").write_bytes(b"another")
    with pytest.raises(JobError, match="not kept any more"):
        save(form, Store(tmp_path / "taken"), b"", tmp_path / "k.gullyrise")
    write(placed(1).part, tmp_path / "p.stl")
    kept = read_into("store")
    assert kept.origin is not None and (tmp_path / "store" / kept.origin.file.digest).exists()


def test_a_save_that_fails_leaves_the_file_of_before(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)
    before = path.read_bytes()
    for one in (*store.folder.iterdir(), *tmp_path.glob("p*.stl")):
        one.unlink()
    with pytest.raises(JobError, match="not kept any more"):
        save(form_of(job), store, b"", path)
    with pytest.raises(JobError, match="choose another place"):
        save(form_of(fresh()), store, b"", tmp_path / "no" / "folder" / "j.gullyrise")
    assert path.read_bytes() == before and not list(tmp_path.glob(".j*"))


def test_what_a_killed_writer_left_is_swept_away(tmp_path: Path) -> None:
    left = tmp_path / ".a.txt.999999999.part"
    left.write_bytes(b"half")
    mine = tmp_path / ".a.txt.1.part"
    mine.write_bytes(b"of a process that lives")
    write_safely(tmp_path / "a.txt", b"whole")
    assert not left.exists() and mine.exists() and (tmp_path / "a.txt").read_bytes() == b"whole"


# --- journal -----------------------------------------------------------------------------------------------------------


def test_a_journal_is_offered_once_its_session_is_over_and_not_before(tmp_path: Path) -> None:
    job, _ = kept_job(tmp_path)
    home = tmp_path / "journal"
    session = Journal(home)
    session.write(form_of(job, "work"), "/jobs/a.gullyrise")
    assert left_behind(home) == [], "it still lives"
    session.close()
    (found,) = left_behind(home)
    assert found.form == form_of(job, "work") and found.path == "/jobs/a.gullyrise" and abs(found.when - time.time()) < 60
    assert left_behind(home) == [], "it is offered once, whoever looks meanwhile"
    found.let_go()
    (again,) = left_behind(home)
    again.throw_away()
    assert left_behind(home) == [] and not found.folder.exists()


def test_a_settled_journal_leaves_nothing_and_a_broken_one_stops_nobody(tmp_path: Path) -> None:
    job, _ = kept_job(tmp_path)
    home = tmp_path / "journal"
    session = Journal(home)
    session.write(form_of(job), "")
    session.settle()
    session.close()
    assert not session.folder.exists()
    for words in (b"", b"{", b"[1]", as_bytes(form_of(job))[:200]):
        broken = Journal(home)
        broken.begin()
        (broken.folder / "job.json").write_bytes(words)
        broken.close()
    newer = Journal(home)
    newer.write(form_of(job), "")
    newer.close()
    found = left_behind(home)
    assert len(found) == 5 and sum(one.form is None for one in found) == 4
    assert all(len(one.cost) == 1 for one in found if one.form is None), "what is damaged is told, and stays"
    for one in found:
        one.let_go()


def test_work_is_never_thrown_away_for_its_age(tmp_path: Path) -> None:
    job, _ = kept_job(tmp_path)
    for when in (0.0, -1e12, 4e9, 1e300, "soon"):
        session = Journal(tmp_path / "journal")
        session.write(form_of(job), "")
        (session.folder / "about.json").write_text(json.dumps({"when": when, "path": ""}))
        session.close()
    found = left_behind(tmp_path / "journal")
    assert len(found) == 5 and all(one.form == form_of(job) for one in found)
    for one in found:
        one.let_go()


@pytest.mark.parametrize(
    "data", [b'{"schema": "gullyrise.job/1"}', b"[]", b"\xff\xfe", b'{"schema": "gullyrise.job/1", "beds": NaN}']
)
def test_a_form_that_is_none_gets_a_sentence(data: bytes) -> None:
    with pytest.raises(JobError, match=r"a job is damaged at .+"):
        form_from(data, "a job")


# --- saving over what is there -----------------------------------------------------------------------------------------


def test_saving_keeps_mode_and_writes_through_links(tmp_path: Path) -> None:
    real, link = tmp_path / "shelf" / "real.txt", tmp_path / "link.txt"
    real.parent.mkdir()
    real.write_bytes(b"old")
    real.chmod(0o640)
    link.symlink_to("shelf/real.txt")
    write_safely(link, b"new")
    assert link.is_symlink() and real.read_bytes() == b"new" and real.stat().st_mode & 0o777 == 0o640
    fresh = tmp_path / "to be.txt"
    (tmp_path / "ahead.txt").symlink_to("to be.txt")
    write_safely(tmp_path / "ahead.txt", b"made")
    assert fresh.read_bytes() == b"made"
    long = tmp_path / ("n" * 251 + ".txt")
    write_safely(long, b"long")
    assert long.read_bytes() == b"long" and len(list(tmp_path.iterdir())) == 5


def test_saving_refuses_what_is_no_ordinary_file(tmp_path: Path) -> None:
    import os

    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "ring").symlink_to(tmp_path / "ring")
    (tmp_path / "folder").mkdir()
    form, store = form_of(fresh()), Store(tmp_path / "s")
    for name in ("pipe", "ring", "folder", "n" * 300, "nul\0"):
        with pytest.raises(JobError) as caught:
            save(form, store, b"", tmp_path / name)
        assert "cannot be saved" in str(caught.value) and str(caught.value).isprintable() and "Errno" not in str(caught.value)
    with pytest.raises(JobError, match="device or a pipe"):
        open_file(tmp_path / "pipe", store)


def test_a_job_is_not_saved_over_another_state_than_is_known(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path)
    path = tmp_path / "j.gullyrise"
    first = save(form_of(job), store, b"", path)
    second = save(form_of(job.noted("mine")), store, b"", path, over=first)
    theirs = path.read_bytes()
    with pytest.raises(JobChanged):
        save(form_of(job.noted("late")), store, b"", path, over=first)
    assert path.read_bytes() == theirs
    assert save(form_of(job.noted("late")), store, b"", path, over=second)


def test_differences_are_told_in_words() -> None:
    job = fresh().with_parts([placed(1), placed(2)])
    one, other = form_of(job), form_of(job.without({2}).with_limit("min_gap", 0.4).noted("x"))
    told = " ".join(differences(one, other))
    assert "lacks p2" in told and "limits differ" in told and "notes differ" in told and "machine" not in told
    assert differences(one, one) == () and "holds p2" in " ".join(differences(other, one))
    moved = form_of(job.moved([1], Transform.moved(np.array([1.0, 0, 0]))))
    assert differences(one, moved) == ("1 part stands elsewhere in it.",)


# --- hostile archives --------------------------------------------------------------------------------------------------


def test_what_is_salvaged_unfolds_within_bounds(tmp_path: Path) -> None:
    """A member that says little and unfolds to more, or to a thousand times its weight."""
    import zlib

    job, store = kept_job(tmp_path, 1)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)
    whole = path.read_bytes()
    with zipfile.ZipFile(path) as archive:
        begin = archive.infolist()[1].header_offset
    squeeze = zlib.compressobj(9, zlib.DEFLATED, -15)
    bomb = squeeze.compress(bytes(400 << 20)) + squeeze.flush()
    for said in (400 << 20, 100):
        name = f"parts/{'0' * 32}".encode()
        head = struct.pack("<4sHHHHHIIIHH", b"PK\x03\x04", 20, 0, 8, 0, 0, 0, len(bomb), said, len(name), 0)
        path.write_bytes(whole[:begin] + head + name + bomb)
        kept = tmp_path / f"kept-{said}"
        opened = open_file(path, Store(kept))
        assert opened.form is not None and "breaks off" in opened.lost[0]
        assert sum(one.stat().st_size for one in kept.iterdir()) < 100 << 20


def test_part_files_are_known_where_the_job_itself_is_lost(tmp_path: Path) -> None:
    job, store = kept_job(tmp_path, 2)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)
    _spoil(path, "job.json")
    opened = open_file(path, Store(tmp_path / "b"))
    assert opened.form is None and sorted(one.file.name for one in opened.files) == ["p1.stl", "p2.stl"]
    laid = Store(tmp_path / "b").laid_out(opened.files[0], tmp_path / "out")
    assert read(laid).triangles == 12


def test_a_store_without_room_accuses_no_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job, store = kept_job(tmp_path, 2)
    path = tmp_path / "j.gullyrise"
    save(form_of(job), store, b"", path)

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(safe_files.Together, "fill", full)
    opened = open_file(path, Store(tmp_path / "b"))
    assert opened.form is not None and len(opened.lost) == 2
    assert all("No space left" in sentence and "damaged" not in sentence for sentence in opened.lost)


def test_all_that_a_job_holds_waits_for_the_disk_together(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job, store = kept_job(tmp_path, 30)
    file = tmp_path / "many.gullyrise"
    save(form_of(job, "Many"), store, b"", file)
    _spoil(file, f"parts/{job.parts[4].origin.file.digest}")
    waits: list[int] = []
    wait, wait_for_all = os.fsync, safe_files._wait_for_disk
    monkeypatch.setattr(os, "fsync", lambda handle: (waits.append(handle), wait(handle)))
    monkeypatch.setattr(safe_files, "_wait_for_disk", lambda folder: (waits.append(0), wait_for_all(folder)))
    there = Store(tmp_path / "other")
    opened = open_file(file, there)
    assert opened.form is not None and len(waits) == 2
    lost = job.parts[4]
    assert len(opened.lost) == 1 and lost.name in opened.lost[0]
    for one in job.parts:
        if isinstance(one.origin, FileOrigin):
            assert there.has(one.origin) == (one is not lost)
            assert one is lost or digest_of(there.path_of(one.origin.file.digest)) == one.origin.file.digest
    assert len(there.origins()) == 29
    assert not [left for left in there.folder.iterdir() if left.name.startswith(".")]


def test_a_disk_that_refuses_in_the_end_leaves_nothing_half(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job, store = kept_job(tmp_path)
    file = tmp_path / "job.gullyrise"
    save(form_of(job, "Job"), store, b"", file)

    def refuses(folder: Path) -> None:
        raise OSError(errno.EIO, "Input/output error", str(folder))

    there = Store(tmp_path / "other")
    with monkeypatch.context() as broken:
        broken.setattr(safe_files, "_wait_for_disk", refuses)
        with pytest.raises(NotKept, match="Input/output error"):
            open_file(file, there)
    assert list(there.folder.iterdir()) == []
    assert not open_file(file, there).lost


def test_what_a_killed_reader_left_in_the_store_is_swept_and_what_a_living_one_writes_is_not(tmp_path: Path) -> None:
    (tmp_path / f".{1:032x}.999999999.part").write_bytes(b"half")
    (tmp_path / f".{2:032x}.{os.getpid()}.part").write_bytes(b"coming")
    Store(tmp_path).sweep(set(), 0)
    assert [left.name for left in tmp_path.iterdir()] == [f".{2:032x}.{os.getpid()}.part"]


def test_bytes_that_nobody_wants_are_swept_after_a_while(tmp_path: Path) -> None:
    _, store = kept_job(tmp_path, 3)
    digests = sorted(one.name for one in store.folder.iterdir() if one.suffix != ".json")
    assert store.sweep({digests[0]}, 300) == 0, "they have just been read"
    for one in store.folder.iterdir():
        os.utime(one, (0, 0))
    # Asked for again, bytes stay; so does what some state of the job is made of.
    name = next(path.name for path in tmp_path.glob("p*.stl") if digest_of(path) == digests[1])
    store.keep(tmp_path / name)
    assert store.sweep({digests[0]}, 300) == 3
    assert {digests[0], digests[1]} <= {one.name for one in store.folder.iterdir()} and not store.path_of(digests[2]).exists()


# --- what is laid aside ------------------------------------------------------------------------------------------------


def test_what_is_laid_aside_is_the_same_and_comes_back(tmp_path: Path) -> None:
    mesh = zoo.mesh_of(zoo.sphere_shell(20, 17, 60))
    part = zoo.part(mesh, "ball")
    before = (part.bodies[0].mesh.vertices.copy(), part.bodies[0].mesh.faces.copy(), part_digest(part))
    assert lay_aside(part, tmp_path / "aside") > mesh.vertices.nbytes
    held = part.bodies[0].mesh
    assert is_mapped(held.vertices) and is_mapped(held.faces) and not list((tmp_path / "aside").iterdir())
    assert lay_aside(part, tmp_path / "aside") == 0
    assert (held.vertices == before[0]).all() and (held.faces == before[1]).all() and part_digest(part) == before[2]
    bring_back(part)
    assert not is_mapped(held.vertices) and (held.vertices == before[0]).all() and not held.vertices.flags.writeable
