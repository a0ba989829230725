"""The program at the root: what it says when something is missing, before there is an
environment.
"""

import importlib.util
import os
import re
import subprocess
import sys
from importlib.machinery import SourceFileLoader
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


@pytest.fixture
def launcher(monkeypatch, tmp_path):
    loader = SourceFileLoader("launcher", str(ROOT / "coaster"))
    module = importlib.util.module_from_spec(importlib.util.spec_from_loader("launcher", loader))
    monkeypatch.setattr(sys, "dont_write_bytecode", True)
    loader.exec_module(module)
    return module


def test_a_missing_library_names_its_package_and_how_to_install_it(launcher, monkeypatch, capsys):
    monkeypatch.setattr(launcher, "LIBRARIES", {"libnowhere.so.9": "libnowhere9"})
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    with pytest.raises(SystemExit) as stopped:
        launcher.prepare_system(with_browser=False)
    assert stopped.value.code == 2
    said = capsys.readouterr().err
    assert "libnowhere9" in said
    assert "Run as root: apt-get install" in said


def test_root_has_it_installed(launcher, monkeypatch):
    done = []
    monkeypatch.setattr(launcher, "LIBRARIES", {"libnowhere.so.9": "libnowhere9"})
    monkeypatch.setattr(launcher, "BROWSER", {"no-such-browser": "browser"})
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    monkeypatch.setattr(
        "shutil.which", lambda name: "/usr/bin/apt-get" if name == "apt-get" else None
    )
    monkeypatch.setattr(launcher, "run", lambda *words: done.append(words))
    launcher.prepare_system(with_browser=True)
    assert done[-1][-2:] == ("libnowhere9", "browser")


@pytest.fixture
def installed(launcher, monkeypatch, tmp_path) -> list[str]:
    """Which locks were installed, of a launcher whose environment is in a folder of its own."""
    done: list[str] = []
    (tmp_path / "bin").mkdir()
    (tmp_path / "bin" / "python").symlink_to(sys.executable)
    for name in ("run", "cluster", "dev"):
        (tmp_path / f"{name}.lock").write_text(f"{name}==1")
        monkeypatch.setattr(launcher, f"{name.upper()}_LOCK", tmp_path / f"{name}.lock")
    monkeypatch.setattr(launcher, "VENV", tmp_path)
    monkeypatch.setattr(launcher, "PYTHON", tmp_path / "bin" / "python")
    monkeypatch.setattr(launcher, "install", lambda lock: done.append(Path(lock).name))
    packages = subprocess.CompletedProcess([], 0, stdout=f"{tmp_path}\n")
    monkeypatch.setattr("subprocess.run", lambda *words, **options: packages)
    return done


def test_what_runs_is_installed_once_and_again_when_its_lock_changed(launcher, installed, tmp_path):
    for _ in range(2):
        launcher.prepare_python(launcher.RUN_LOCK)
    assert installed == ["run.lock"]
    assert (tmp_path / "coaster.pth").read_text().strip() == str(ROOT / "src")
    (tmp_path / "run.lock").write_text("a==2")
    launcher.prepare_python(launcher.RUN_LOCK)
    assert installed == ["run.lock", "run.lock"]


def test_each_lock_holds_those_before_it(launcher, installed):
    run, cluster, dev = launcher.RUN_LOCK, launcher.CLUSTER_LOCK, launcher.DEV_LOCK
    for lock in (run, cluster, run, dev, cluster, run, dev):
        launcher.prepare_python(lock)
    assert installed == ["run.lock", "cluster.lock", "dev.lock"]


def test_the_locks_agree_and_name_a_hash_for_everything():
    pinned = re.compile(r"^([\w.-]+==\S+(?: \\\n    --hash=sha256:\w{64})+)$", re.M)
    texts = [(ROOT / f"requirements{part}.lock").read_text() for part in ("", "-cluster", "-dev")]
    run, cluster, dev = (set(pinned.findall(text)) for text in texts)
    assert [len(run), len(cluster), len(dev)] == [text.count("==") for text in texts]
    assert run < cluster < dev


def test_the_key_of_a_single_persons_studio_is_kept_and_private(tmp_path):
    clean = {k: v for k, v in os.environ.items() if not k.startswith(("COASTER", "DJANGO"))}
    keys = set()
    for _ in range(2):
        ask = "from studio.config import settings; print(settings.SECRET_KEY)"
        done = subprocess.run(
            [sys.executable, "-c", ask], capture_output=True, text=True, check=True,
            env=clean | {"COASTER_DATA": str(tmp_path)}, cwd=ROOT,
        )  # fmt: skip
        keys.add(done.stdout)
    assert len(keys) == 1
    assert (tmp_path / "secret.txt").stat().st_mode & 0o777 == 0o600
