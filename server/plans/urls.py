from django.urls import path

from . import views

urlpatterns = [
    path("clips/<uuid:pk>/offers", views.OffersView.as_view()),
    path("clips/<uuid:pk>/offers/<slug:exercise>/dose", views.DoseView.as_view()),
    path("clips/<uuid:pk>/assignments", views.AssignmentsView.as_view()),
    path("clips/<uuid:pk>/assignments/<int:assignment>", views.AssignmentView.as_view()),
    path("assignments/<int:assignment>/excuses", views.ExcuseView.as_view()),
    path("clips/<uuid:pk>/block", views.BeginView.as_view()),
    path("clips/<uuid:pk>/follows", views.FollowsView.as_view()),
    path("clips/<uuid:pk>/follows/taken-up", views.TakeUpView.as_view()),
    path("library", views.LibraryView.as_view()),
    path("library/<slug:exercise>", views.ExerciseView.as_view()),
    path("library/<slug:exercise>/hidden", views.HiddenView.as_view()),
    path("ladders", views.LaddersView.as_view()),
    path("ladders/<slug:ladder>", views.LadderView.as_view()),
    path("ladders/<slug:ladder>/athletes/<int:athlete>", views.OnLadderView.as_view()),
    path("ladders/<slug:ladder>/class", views.ClassView.as_view()),
    path("ladders/<slug:ladder>/class/<int:athlete>/<int:step>", views.ClassStepView.as_view()),
    path("athletes/<int:pk>/plan", views.PlanView.as_view()),
    path("athletes/<int:pk>/plan.ics", views.calendar_file),
    path("blocks/<int:pk>", views.BlockView.as_view()),
    path("blocks/<int:pk>/slots/<int:slot>", views.SlotView.as_view()),
    path("blocks/<int:pk>/closed", views.CloseView.as_view()),
]
