"""Every address of the application: the API, and for everything else the one page that the browser runs."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    return render(request, "index.html")


def keeper(request: HttpRequest) -> HttpResponseBase:
    """The worker that keeps the athlete's page on the phone; what it may keep is what lies beside it."""
    script = settings.WEB_DIST / "keeper.js"
    if not script.exists():
        return HttpResponse(status=404)
    return FileResponse(script.open("rb"), content_type="text/javascript", headers={"Cache-Control": "no-cache"})


urlpatterns = [
    path("w/keeper.js", keeper),
    path("api/", include("people.urls")),
    path("api/", include("clips.urls")),
    path("api/", include("reviews.urls")),
    path("api/", include("plans.urls")),
    path("api/", include("log.urls")),
    path("api/schema", SpectacularAPIView.as_view(), name="schema"),
    re_path(r"^(?!api/|static/).*$", page),
]
