from django.urls import path
from rest_framework.routers import SimpleRouter

from .views import AthleteViewSet, LooksView, RackView, SessionView

router = SimpleRouter(trailing_slash=False)
router.register("athletes", AthleteViewSet)
urlpatterns = [path("session", SessionView.as_view()), path("rack", RackView.as_view()), path("looks", LooksView.as_view()), *router.urls]
