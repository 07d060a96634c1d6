from django.urls import path
from rest_framework.routers import SimpleRouter

from .views import AthleteViewSet, InvitationView, LooksView, NewCoachView, PasswordView, RackView, SessionView, TrailView

router = SimpleRouter(trailing_slash=False)
router.register("athletes", AthleteViewSet)
urlpatterns = [
    path("session", SessionView.as_view()),
    path("coaches", NewCoachView.as_view()),
    path("password", PasswordView.as_view()),
    path("invitations", InvitationView.as_view()),
    path("trail", TrailView.as_view()),
    path("rack", RackView.as_view()),
    path("looks", LooksView.as_view()),
    *router.urls,
]
