from django.urls import path, re_path

from studio.projects import views

urlpatterns = [
    path("", views.projects, name="projects"),
    path("projects/new", views.create_project, name="create-project"),
    path("projects/<int:project_id>/rename", views.rename_project, name="rename-project"),
    path("projects/<int:project_id>/delete", views.delete_project, name="delete-project"),
    path("projects/<int:project_id>/restore", views.restore_project, name="restore-project"),
    path("projects/<int:project_id>/new-scene", views.new_scene, name="new-scene"),
    path("projects/<int:project_id>/open", views.open_scene, name="open-scene"),
    path("projects/open", views.open_project, name="open-project"),
    path("projects/<int:project_id>/save", views.save_project, name="save-project"),
    path("projects/<int:project_id>/files", views.project_files, name="project-files"),
    path("projects/<int:project_id>/files/unused", views.bin_unused, name="bin-unused"),
    path("projects/<int:project_id>/files/<int:asset_id>/bin", views.bin_file, name="bin-file"),
    path("projects/<int:project_id>/files/restore", views.restore_files, name="restore-files"),
    path("projects/<int:project_id>/assets/<str:file_name>", views.asset, name="asset"),
    path("bin", views.show_bin, name="bin"),
    path("bin/empty", views.empty_bin, name="empty-bin"),
    re_path(
        r"^bin/(?P<kind>\w+)/(?P<pk>\d+)/(?P<action>restore|erase)$",
        views.act_in_bin,
        name="act-in-bin",
    ),
    path("scenes/<int:scene_id>/rename", views.rename_scene, name="rename-scene"),
    path("scenes/<int:scene_id>/duplicate", views.duplicate_scene, name="duplicate-scene"),
    path("scenes/<int:scene_id>/rescue", views.rescue_scene, name="rescue-scene"),
    path("scenes/<int:scene_id>/delete", views.delete_scene, name="delete-scene"),
    path("scenes/<int:scene_id>/restore", views.restore_scene, name="restore-scene"),
    path("scenes/<int:scene_id>/save", views.save_scene, name="save-scene"),
    path(
        "scenes/<int:scene_id>/still/<int:revision>.webp",
        views.thumbnail,
        {"kind": "still"},
        name="still",
    ),
    path(
        "scenes/<int:scene_id>/moving/<int:revision>.webp",
        views.thumbnail,
        {"kind": "moving"},
        name="moving",
    ),
]
