from django.urls import path
from rest_framework.routers import SimpleRouter

from .views import ClipViewSet, poster, video

router = SimpleRouter(trailing_slash=False)
router.register("clips", ClipViewSet)
urlpatterns = [path("clips/<uuid:pk>/video.mp4", video), path("clips/<uuid:pk>/poster.jpg", poster), *router.urls]
