from django.urls import path

from jaded_ledger.made_files import views

app_name = "made_files"
urlpatterns = [
    path("", views.files, name="files"),
    path("<int:pk>/", views.file, name="file"),
    path("<int:pk>/progress", views.progress, name="progress"),
    path("<int:pk>/download", views.download_file, name="download"),
    path("<int:pk>/throw-away", views.throw_away, name="throw-away"),
]
