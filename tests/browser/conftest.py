"""The whole studio as a person has it: server, worker and demo, in a folder of its own."""

import http.cookiejar
import io
import json
import os
import re
import subprocess
import sys
import urllib.parse
import urllib.request
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome

from tests.browser.driver import chromium

ROOT = Path(__file__).parents[2]


def scenes_on(page: bytes) -> list[int]:
    """Return the ids of the scenes that a page leads to, in their order."""
    return sorted({int(i) for i in re.findall(rb'href="/scenes/(\d+)/"', page)})


class Studio:
    """A running studio, asked over HTTP as its one person."""

    def __init__(self, folder: Path, port: int = 0) -> None:
        self.folder = folder
        environment = os.environ | {"COASTER_DATA": str(folder), "PYTHONUNBUFFERED": "1"}
        environment.pop("DJANGO_SETTINGS_MODULE", None)
        self.process = subprocess.Popen(
            [sys.executable, "-m", "studio", "demo", "--port", str(port)],
            stdout=subprocess.PIPE,
            text=True,
            cwd=ROOT,
            env=environment,
        )
        said = ""
        for line in self.process.stdout:
            said += line
            if match := re.search(r"http://127\.0\.0\.1:\d+", line):
                self.address = match.group()
                break
        else:
            raise RuntimeError(f"the studio did not start: {said}")
        self._jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))

    def get(self, path: str) -> bytes:
        with self._opener.open(self.address + path, timeout=60) as answer:
            return answer.read()

    def post(self, path: str, /, **fields: str) -> bytes:
        return self._sent(path, urllib.parse.urlencode(fields).encode())[1]

    def _sent(self, path: str, body: bytes, **headers: str) -> tuple[str, bytes]:
        """Send a form, and return the address that it led to and what is there."""
        if not len(self._jar):
            self.get("/")
        token = next(c.value for c in self._jar if c.name == "coaster_csrf")
        headers |= {"X-CSRFToken": token, "Referer": self.address}
        request = urllib.request.Request(self.address + path, body, headers)
        with self._opener.open(request, timeout=60) as answer:
            return answer.url, answer.read()

    def scene_ids(self) -> list[int]:
        return scenes_on(self.get("/"))

    def copy_of(self, scene_id: int) -> int:
        """Duplicate a scene and return the copy's id."""
        return scenes_on(self.post(f"/scenes/{scene_id}/duplicate"))[-1]

    def opened(self, text: str) -> int:
        """Open a scene file in the first project, and return the scene's id."""
        head = 'Content-Disposition: form-data; name="file"; filename="scene.json"'
        body = f"--part\r\n{head}\r\n\r\n{text}\r\n--part--\r\n"
        form = {"Content-Type": "multipart/form-data; boundary=part"}
        address, _ = self._sent("/projects/1/open", body.encode(), **form)
        return int(address.rstrip("/").rpartition("/")[2])

    def document(self, scene_id: int) -> dict:
        """Return a scene as its saved file has it."""
        with zipfile.ZipFile(io.BytesIO(self.get(f"/scenes/{scene_id}/save"))) as bundle:
            return json.loads(bundle.read("scene.json"))

    def layer(self, scene_id: int, layer_id: str) -> dict:
        return next(x for x in self.document(scene_id)["layers"] if x["id"] == layer_id)

    def editor(self, scene_id: int) -> str:
        return f"{self.address}/scenes/{scene_id}/"

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(120)


@pytest.fixture(scope="session")
def studio(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Studio]:
    running = Studio(tmp_path_factory.mktemp("studio"))
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Chrome]:
    with chromium() as driver:
        yield driver


@pytest.fixture(autouse=True)
def forgotten(request: pytest.FixtureRequest) -> None:
    """A test begins with nothing that the browser has kept of another one's habits."""
    if {"browser", "studio"} <= set(request.fixturenames):
        driver, studio = map(request.getfixturevalue, ("browser", "studio"))
        # Asked of the browser: the page that is open may be of another address, or none at all.
        kept = {"origin": studio.address, "storageTypes": "local_storage"}
        driver.execute_cdp_cmd("Storage.clearDataForOrigin", kept)


@pytest.fixture(autouse=True)
def no_complaints(request: pytest.FixtureRequest) -> Iterator[None]:
    """The console stays silent: no script errors, nothing blocked, nothing missing."""
    yield
    if "browser" in request.fixturenames:
        driver = request.getfixturevalue("browser")
        expected = ("status of 422", "status of 409", "status of 413", "ERR_CONNECTION_REFUSED")
        complaints = [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]
        assert [c for c in complaints if not any(e in c for e in expected)] == []


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/browser" in str(item.path):
            item.add_marker(pytest.mark.browser)
