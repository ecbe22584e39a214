"""Addresses: the API, the one-time link, and the face for everything else."""

from django.urls import path, re_path

from .api import api
from .views import face, use_link

handler500 = "studio.views.broken"
handler404 = "studio.views.absent"
urlpatterns = [
    path("api/", api.urls),
    path("enter/<str:token>", use_link),
    re_path(r"^(?!api/|static/|assets/).*$", face),
]
