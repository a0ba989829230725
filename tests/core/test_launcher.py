"""The program at the root: what it says when something is missing, before there is an
environment.
"""

import importlib.util
import os
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


def test_the_environment_is_made_again_only_when_the_pinned_versions_changed(
    launcher, monkeypatch, tmp_path
):
    done = []
    (tmp_path / "bin").mkdir()
    (tmp_path / "bin" / "python").symlink_to(sys.executable)
    (tmp_path / "lock").write_text("a==1")
    for name, value in {"VENV": tmp_path, "PYTHON": tmp_path / "bin" / "python", "LOCK": tmp_path / "lock",
                        "MARK": tmp_path / "mark"}.items():  # fmt: skip
        monkeypatch.setattr(launcher, name, value)
    monkeypatch.setattr(launcher, "run", lambda *words: done.append(words))
    packages = subprocess.CompletedProcess([], 0, stdout=f"{tmp_path}\n")
    monkeypatch.setattr(launcher.subprocess, "run", lambda *words, **options: packages)
    launcher.prepare_python()
    launcher.prepare_python()
    assert len(done) == 1
    assert (tmp_path / "coaster.pth").read_text().strip() == str(ROOT / "src")
    (tmp_path / "lock").write_text("a==2")
    launcher.prepare_python()
    assert len(done) == 2


@pytest.mark.parametrize(
    ("environment", "words"),
    [
        ({"COASTER_SERVER": "1"}, "COASTER_SECRET must be set"),
        ({"COASTER_SERVER": "1", "COASTER_SECRET": "x" * 50}, ""),
    ],
)
def test_server_mode_needs_a_key_of_its_own(tmp_path, environment, words):
    clean = {k: v for k, v in os.environ.items() if not k.startswith(("COASTER", "DJANGO"))}
    done = subprocess.run(
        [sys.executable, "-m", "studio", "check"], capture_output=True, text=True, check=False,
        env=clean | environment | {"COASTER_SERVER": "1", "COASTER_DATA": str(tmp_path)}, cwd=ROOT,
    )  # fmt: skip
    assert words in done.stderr
    assert (done.returncode == 0) is (words == "")


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
