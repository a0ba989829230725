"""Static files under names that change with their content, ES modules' imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage

IMPORTS = r"""(?P<matched>import(?s:(?P<import>[\s\{].*?))\s*from\s*['"](?P<url>\./.*?)["'])"""
"""Django's own pattern wants a semicolon behind each import; our modules have none."""


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Also rewrites ``import`` statements, so that a module never meets an older one."""

    max_post_process_passes = 30
    """Each pass settles the modules that import none that is unsettled: one is needed a step of the
    longest chain.
    """
    patterns = (
        *CompressedManifestStaticFilesStorage.patterns,
        ("*.js", ((IMPORTS, """import%(import)s from "%(url)s\""""),)),
    )
