from django.urls import path

from . import views

urlpatterns = [
    path("athletes/<int:pk>/series", views.SeriesView.as_view()),
    path("schools", views.SchoolsView.as_view()),
    path("schools/<slug:question>", views.SchoolView.as_view()),
    path("catalogue", views.CatalogueView.as_view()),
    path("clips/<uuid:pk>/bench", views.BenchView.as_view()),
    path("clips/<uuid:pk>/disc/<int:frame>", views.DiscPointView.as_view()),
    path("clips/<uuid:pk>/joints/<int:frame>/<slug:joint>", views.JointPointView.as_view()),
    path("clips/<uuid:pk>/events/<int:lift>/<slug:event>", views.EventView.as_view()),
    path("clips/<uuid:pk>/limits/<slug:fault>/<str:measure>", views.LimitView.as_view()),
    path("clips/<uuid:pk>/by-hand", views.ByHandView.as_view()),
    path("clips/<uuid:pk>/undo", views.UndoView.as_view()),
    path("clips/<uuid:pk>/redo", views.RedoView.as_view()),
    path("clips/<uuid:pk>/verdicts/<slug:fault>", views.VerdictView.as_view()),
    path("clips/<uuid:pk>/frames/<int:frame>.jpg", views.frame_picture),
    path("clips/<uuid:pk>/analysis.json", views.analysis_file),
    path("clips/<uuid:pk>/bar.csv", views.bar_file),
    path("clips/<uuid:pk>/joints.trc", views.joints_file),
    path("clips/<uuid:pk>/notes.vtt", views.notes_file),
    path("clips/<uuid:pk>/positions.png", views.sheet_file),
    path("clips/<uuid:pk>/drawn.mp4", views.drawn_file),
    path("clips/<uuid:pk>/notes", views.NotesView.as_view()),
    path("clips/<uuid:pk>/notes/<int:note>", views.NoteView.as_view()),
    path("clips/<uuid:pk>/marks", views.MarksView.as_view()),
    path("clips/<uuid:pk>/marks/<int:mark>", views.MarkView.as_view()),
    path("clips/<uuid:pk>/review", views.ReviewView.as_view()),
    path("clips/<uuid:pk>/hand-over", views.PublishView.as_view()),
    path("handed/<str:token>", views.HandedView.as_view()),
    path("handed/<str:token>/picture.jpg", views.handed_picture),
]
