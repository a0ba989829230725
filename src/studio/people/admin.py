"""Django's own pages over the tables, for who looks after the studio."""

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.models import Group, User
from django.http import HttpRequest

from studio.projects.models import Project, Scene


class Seen:
    """What those see who look after the studio, whatever rights they have else."""

    def has_module_permission(self, request: HttpRequest) -> bool:
        return _staff(request)

    def has_view_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return _staff(request)

    def has_add_permission(self, request: HttpRequest) -> bool:
        # Accounts are added on the page of people: it makes the link that they need.
        return False


class People(Seen, UserAdmin):
    """Accounts; nobody gives more rights here than being one who looks after them."""

    fieldsets = (
        (None, {"fields": ("username", "password")}),
        ("Rights", {"fields": ("is_active", "is_staff")}),
        ("Dates", {"fields": ("last_login", "date_joined")}),
    )
    list_display = ("username", "is_active", "is_staff", "last_login")
    readonly_fields = ("last_login", "date_joined")

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        above = isinstance(obj, User) and obj.is_superuser and not request.user.is_superuser
        return _staff(request) and not above


class ReadOnly(Seen, admin.ModelAdmin):
    """Rows to look at: what people made is changed by them alone."""

    list_display = ("__str__", "created_at", "deleted_at")
    exclude = ("document",)

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return False

    def has_delete_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return False


def _staff(request: HttpRequest) -> bool:
    return bool(request.user.is_active and request.user.is_staff)


admin.site.unregister(User)
admin.site.unregister(Group)
admin.site.register(User, People)
admin.site.register([Project, Scene], ReadOnly)
admin.site.site_header = admin.site.site_title = "Coaster’s tables"
