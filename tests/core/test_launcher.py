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
        launcher.shutil, "which", lambda name: "/usr/bin/apt-get" if name == "apt-get" else None
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
    for name in ("run.lock", "dev.lock"):
        (tmp_path / name).write_text(f"{name}==1")
    for name, value in {"VENV": tmp_path, "PYTHON": tmp_path / "bin" / "python", "RUN_LOCK": tmp_path / "run.lock",
                        "DEV_LOCK": tmp_path / "dev.lock"}.items():  # fmt: skip
        monkeypatch.setattr(launcher, name, value)
    monkeypatch.setattr(launcher, "install", lambda lock: done.append(lock.name))
    packages = subprocess.CompletedProcess([], 0, stdout=f"{tmp_path}\n")
    monkeypatch.setattr(launcher.subprocess, "run", lambda *words, **options: packages)
    return done


def test_what_runs_is_installed_once_and_again_when_its_lock_changed(launcher, installed, tmp_path):
    for _ in range(2):
        launcher.prepare_python(for_developers=False)
    assert installed == ["run.lock"]
    assert (tmp_path / "coaster.pth").read_text().strip() == str(ROOT / "src")
    (tmp_path / "run.lock").write_text("a==2")
    launcher.prepare_python(for_developers=False)
    assert installed == ["run.lock", "run.lock"]


def test_what_tests_need_holds_what_runs(launcher, installed):
    for developers in (True, False, True):
        launcher.prepare_python(for_developers=developers)
    assert installed == ["dev.lock"]


def test_the_locks_agree_and_name_a_hash_for_everything():
    pinned = re.compile(r"^([\w.-]+==\S+(?: \\\n    --hash=sha256:\w{64})+)$", re.M)
    texts = [(ROOT / name).read_text() for name in ("requirements.lock", "requirements-dev.lock")]
    run, dev = (set(pinned.findall(text)) for text in texts)
    assert [len(run), len(dev)] == [text.count("==") for text in texts]
    assert run < dev


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
