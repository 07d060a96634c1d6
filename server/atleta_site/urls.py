"""Every address of the application: the API, and for everything else the one page that the browser runs."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    return render(request, "index.html")


urlpatterns = [
    path("api/", include("people.urls")),
    path("api/", include("clips.urls")),
    path("api/", include("reviews.urls")),
    path("api/", include("plans.urls")),
    path("api/", include("log.urls")),
    path("api/schema", SpectacularAPIView.as_view(), name="schema"),
    re_path(r"^(?!api/|static/).*$", page),
]
