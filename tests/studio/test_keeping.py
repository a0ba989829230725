"""Backup and restore: whole, while it is worked in, and nothing lost over it."""

import sqlite3
import zipfile
from contextlib import closing

import pytest

from coaster.errors import FormatError
from studio.projects import keeping


def kept(data) -> dict[str, bytes]:
    """What a data folder holds: the rows of its database, and the bytes of its files."""
    with closing(sqlite3.connect(data / keeping.DATABASE)) as database:
        rows = repr(database.execute("SELECT * FROM things").fetchall()).encode()
    files = [f for of in keeping.FOLDERS for f in (data / of).rglob("*") if f.is_file()]
    return {"rows": rows} | {str(f.relative_to(data)): f.read_bytes() for f in files}


@pytest.fixture
def data(tmp_path):
    folder = tmp_path / "var"
    (folder / "projects" / "1" / "assets").mkdir(parents=True)
    (folder / "projects" / "1" / "assets" / "a.png").write_bytes(b"picture")
    (folder / "renders" / "3").mkdir(parents=True)
    (folder / "renders" / "3" / "1.mp4").write_bytes(b"film")
    (folder / "renders" / "3" / ".1.mp4.x.part").write_bytes(b"half a film")
    return folder


@pytest.fixture
def database(data):
    """A database that is worked in: what was written last is only in its log."""
    with closing(sqlite3.connect(data / keeping.DATABASE)) as database:
        database.execute("PRAGMA journal_mode=WAL")
        database.execute("CREATE TABLE things (name)")
        database.execute("INSERT INTO things VALUES ('manta')")
        database.commit()
        yield database


def test_what_is_backed_up_while_it_is_worked_in_comes_back_whole(data, database, tmp_path):
    file = tmp_path / "all.zip"
    before = kept(data)
    before.pop("renders/3/.1.mp4.x.part")
    assert keeping.backup(data, file) == file.stat().st_size
    database.execute("INSERT INTO things VALUES ('later')")
    database.commit()
    database.close()
    other = tmp_path / "other"
    other.mkdir()
    assert keeping.restore(file, other) is None
    assert kept(other) == before
    aside = keeping.restore(file, data)
    assert kept(data) == before
    assert b"later" in kept(aside)["rows"]


def test_a_running_studio_is_not_restored_under_its_feet(data, database, tmp_path):
    file = tmp_path / "all.zip"
    keeping.backup(data, file)
    with keeping.hold(data):
        assert keeping.hold(data) is None
        with pytest.raises(FormatError, match="stop it first"):
            keeping.restore(file, data)
    with keeping.hold(data) as held:
        assert held


def test_a_database_that_a_server_has_open_is_not_taken_from_it(data, database, tmp_path):
    file, before = tmp_path / "all.zip", kept(data)
    keeping.backup(data, file)
    with pytest.raises(FormatError, match="is in use; stop the studio first"):
        keeping.restore(file, data)
    assert kept(data) == before


def test_a_damaged_database_is_what_a_backup_is_for(data, database, tmp_path):
    file = tmp_path / "all.zip"
    keeping.backup(data, file)
    before = kept(data)
    before.pop("renders/3/.1.mp4.x.part")
    database.close()
    (data / keeping.DATABASE).write_bytes(b"no database at all" * 1000)
    keeping.restore(file, data)
    assert kept(data) == before


def test_what_is_no_backup_changes_nothing(data, database, tmp_path):
    before, good = kept(data), tmp_path / "good.zip"
    keeping.backup(data, good)
    cases = {
        "text": b"hello",
        "cut": good.read_bytes()[: good.stat().st_size // 2],
    }
    for name, content in cases.items():
        (tmp_path / name).write_bytes(content)
        with pytest.raises(FormatError, match="Nothing was changed"):
            keeping.restore(tmp_path / name, data)
    for name, entries in {
        "other.zip": ["a.txt"],
        "out.zip": [keeping.DATABASE, "projects/../../x"],
    }.items():
        with zipfile.ZipFile(tmp_path / name, "w") as archive:
            for entry in entries:
                archive.writestr(entry, b"no database")
        with pytest.raises(FormatError, match="no backup of a studio"):
            keeping.restore(tmp_path / name, data)
    assert kept(data) == before


def test_where_there_is_no_studio_there_is_nothing_to_back_up(tmp_path):
    with pytest.raises(FormatError, match="nothing to back up"):
        keeping.backup(tmp_path, tmp_path / "all.zip")
