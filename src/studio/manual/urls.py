from django.urls import path

from studio.manual import views

urlpatterns = [
    path("manual/", views.cover, name="manual"),
    path("manual/<path:path>", views.page, name="manual-page"),
]
