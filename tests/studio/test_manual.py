"""The manual in the studio: built by its generator, given out page by page, and nothing else."""

import pytest
from django.urls import reverse

from studio.manual import site


@pytest.fixture(scope="module")
def built(tmp_path_factory):
    folder = tmp_path_factory.mktemp("manual")
    site.build(folder)
    return folder


@pytest.fixture
def ask(built, monkeypatch, client_of, anna):
    monkeypatch.setattr(site, "PACKAGED", built)
    client = client_of(anna)
    return lambda path: client.get(reverse("manual-page", args=[path]))


def text_of(answer) -> str:
    return b"".join(answer.streaming_content).decode()


def test_pages_are_there_with_what_the_code_says(ask, client_of, anna):
    assert client_of(anna).get(reverse("manual")).url == "/manual/index.html"
    how = text_of(ask("howto.html"))
    assert "Let a picture ride a path" in how
    assert "<!--" not in how.partition('role="main"')[2]
    assert "Gauss-Legendre" in text_of(ask("mathematics.html"))
    assert ask("_images/editor.png")["Content-Type"] == "image/png"
    assert "Tidepool" in text_of(ask("searchindex.js")) or "tidepool" in text_of(ask("searchindex.js"))  # fmt: skip


def test_no_page_asks_for_anything_elsewhere_or_runs_what_is_written_in_it(built):
    for page in built.rglob("*.html"):
        text = page.read_text()
        for word in ('src="http', "@import", 'rel="stylesheet" href="http', " style=", "onclick"):
            assert word not in text, f"{word} in {page.name}"
        assert "<script>" not in text


@pytest.mark.parametrize("path", [".parsed/environment.pickle", "../conf.py", "%2e%2e/conf.py", "nothing.html", "decisions", "decisions/"])  # fmt: skip
def test_nothing_but_its_pages_is_given_out(ask, path):
    assert ask(path).status_code == 404


def test_it_is_built_when_it_is_asked_for_and_anew_once_its_sources_change(
    settings, monkeypatch, tmp_path
):
    made = []

    def build(into):
        into.mkdir(exist_ok=True)
        made.append(into)

    monkeypatch.setattr(site, "build", build)
    assert site.folder() == site.folder() == settings.DATA / "manual"
    assert len(made) == 1
    monkeypatch.setattr(site, "_age", lambda: "later")
    site.folder()
    assert len(made) == 2


def test_why_there_is_none_is_said(client_of, anna, monkeypatch, tmp_path):
    monkeypatch.setattr(site, "PROJECT", tmp_path)
    answer = client_of(anna).get(reverse("manual-page", args=["index.html"]))
    assert answer.status_code == 422
    assert b"without the pages of its manual" in answer.content
    (tmp_path / "docs").mkdir()
    (tmp_path / "docs" / "conf.py").write_text("not python")
    answer = client_of(anna).get(reverse("manual-page", args=["index.html"]))
    assert b"could not be built" in answer.content
