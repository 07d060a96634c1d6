from django.urls import path
from rest_framework.routers import SimpleRouter

from .views import ClipViewSet, LoudnessView, poster, sound, video

router = SimpleRouter(trailing_slash=False)
router.register("clips", ClipViewSet)
urlpatterns = [
    path("clips/<uuid:pk>/video.mp4", video),
    path("clips/<uuid:pk>/sound.m4a", sound),
    path("clips/<uuid:pk>/loudness", LoudnessView.as_view()),
    path("clips/<uuid:pk>/poster.jpg", poster),
    *router.urls,
]
