from django.urls import path

from . import views

urlpatterns = [
    path("training/<str:token>", views.WorkView.as_view()),
    path("training/<str:token>/clips", views.SentClipView.as_view()),
    path("training/<str:token>/plan.ics", views.feed),
    path("athletes/<int:pk>/everything", views.LeavingView.as_view()),
    path("athletes/<int:pk>/everything.zip", views.taken_along),
    path("athletes/<int:pk>/link", views.LinkView.as_view()),
    path("athletes/<int:pk>/log", views.LogView.as_view()),
    path("athletes/<int:pk>/log.csv", views.log_file),
    path("athletes/<int:pk>/log/read-in", views.ReadInView.as_view()),
    path("athletes/<int:pk>/said/<int:said>/read", views.ReadView.as_view()),
    path("morning", views.MorningView.as_view()),
]
