"""Builds the manual into the package; all else about it is in pyproject.toml."""

from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py


class WithManual(build_py):
    def run(self) -> None:
        super().run()
        from sphinx.cmd.build import build_main

        site = Path(self.build_lib) / "studio" / "manual" / "pages"
        words = ["-q", "-b", "html", "-A", "studio=1", "-d", f"{self.build_lib}.manual"]
        if build_main([*words, "docs", str(site)]):
            raise SystemExit("The manual could not be built.")


setup(cmdclass={"build_py": WithManual})
