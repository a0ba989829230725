"""Static files under names that change with their content, ES modules' imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Also rewrites ``import`` statements, so that a module never meets an older one."""

    support_js_module_import_aggregation = True
    manifest_strict = True
