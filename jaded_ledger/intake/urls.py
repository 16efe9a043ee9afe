from django.urls import path

from jaded_ledger.intake import views

app_name = "intake"
urlpatterns = [
    path("", views.records, name="records"),
    path("bring/", views.bring, name="bring"),
    path("uploads/<int:pk>/", views.upload, name="upload"),
    path("uploads/<int:pk>/progress", views.progress, name="progress"),
    path("files/<int:pk>/", views.file, name="file"),
    path("files/<int:pk>/refused.csv", views.refused_rows, name="refused-rows"),
    path("counties/new/", views.add_county, name="add-county"),
]
