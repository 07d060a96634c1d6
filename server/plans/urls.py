from django.urls import path

from . import views

urlpatterns = [
    path("clips/<uuid:pk>/offers", views.OffersView.as_view()),
    path("clips/<uuid:pk>/offers/<slug:exercise>/dose", views.DoseView.as_view()),
    path("clips/<uuid:pk>/assignments", views.AssignmentsView.as_view()),
    path("clips/<uuid:pk>/assignments/<int:assignment>", views.AssignmentView.as_view()),
]
