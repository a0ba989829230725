from django.urls import path

from studio.editor import views

urlpatterns = [
    path("scenes/<int:scene_id>/", views.editor, name="editor"),
    path("scenes/<int:scene_id>/stage", views.whole_stage, name="stage"),
    path("scenes/<int:scene_id>/blocks", views.blocks, name="blocks"),
    path("scenes/<int:scene_id>/edit", views.edit, name="edit"),
    path("scenes/<int:scene_id>/preview", views.preview, name="preview"),
    path("scenes/<int:scene_id>/undo", views.undo, name="undo"),
    path("scenes/<int:scene_id>/redo", views.redo, name="redo"),
    path("scenes/<int:scene_id>/shelf", views.shelf, name="shelf"),
    path("scenes/<int:scene_id>/why", views.why, name="why"),
    path("scenes/<int:scene_id>/seam", views.seam, name="seam"),
    path("scenes/<int:scene_id>/card", views.card, name="card"),
    path("scenes/<int:scene_id>/paths/<str:path_id>.svg", views.path_svg, name="path-svg"),
    path("scenes/<int:scene_id>/paths/<str:path_id>/data", views.path_data, name="path-data"),
    path("scenes/<int:scene_id>/layers/<str:layer_id>/ride.svg", views.ride_svg, name="ride-svg"),
    path(
        "scenes/<int:scene_id>/layers/<str:layer_id>/passed/<str:node_id>",
        views.passed,
        name="passed",
    ),
    path("scenes/<int:scene_id>/paths/data", views.new_path_data, name="new-path-data"),
    path("scenes/<int:scene_id>/rides", views.library_sheet, name="library"),
    path("scenes/<int:scene_id>/rides/keep", views.keep_ride, name="keep-ride"),
    path("scenes/<int:scene_id>/rides/<int:ride_id>/forget", views.forget_ride, name="forget-ride"),
    path("scenes/<int:scene_id>/takes", views.record_take, name="record-take"),
    path("scenes/<int:scene_id>/takes/<str:path_id>.csv", views.take_csv, name="take-csv"),
    path("scenes/<int:scene_id>/takes/<str:path_id>.svg", views.take_svg, name="take-svg"),
    path("scenes/<int:scene_id>/takes/<str:path_id>/raw", views.raw_take, name="raw-take"),
    path("scenes/<int:scene_id>/history", views.past, name="history"),
    path("scenes/<int:scene_id>/history/<int:number>", views.stage_at, name="stage-at"),
    path("scenes/<int:scene_id>/history/<int:number>/back", views.go_back, name="go-back"),
    path(
        "scenes/<int:scene_id>/history/<int:number>/name", views.name_version, name="name-version"
    ),
    path(
        "scenes/<int:scene_id>/history/<int:number>/new",
        views.version_as_new,
        name="version-as-new",
    ),
    path("scenes/<int:scene_id>/scenes", views.scenes, name="scenes"),
    path("scenes/<int:scene_id>/shown", views.insets_sheet, name="shown"),
    path("scenes/<int:scene_id>/group-scene", views.group_scene, name="group-scene"),
    path("scenes/<int:scene_id>/follow/<str:what>", views.follow, name="follow"),
    path("scenes/<int:scene_id>/followed", views.followed, name="followed"),
    path("scenes/<int:scene_id>/revision", views.revision, name="revision"),
    path("scenes/<int:scene_id>/import", views.import_file, name="import"),
]
