from django.urls import path

from jaded_ledger.lists import combining_views, list_views, making_views, stage_views, urgency_views, views

app_name = "lists"
urlpatterns = [
    path("", views.all_lists, name="all"),
    path("new", making_views.new, name="new"),
    path("overlap", views.overlap, name="overlap"),
    path("combine", combining_views.combine, name="combine"),
    path("urgency", urgency_views.urgency, name="urgency"),
    path("stages", stage_views.stages, name="stages"),
    path("activity", views.activity, name="activity"),
    path("activity/<int:pk>/undo", views.undo, name="undo"),
    path("keep/<str:key>", views.keep, name="keep"),
    path("<int:pk>", list_views.one_list, name="list"),
    path("<int:pk>/add", making_views.add_to, name="add"),
    path("<int:pk>/act", list_views.act, name="act"),
]
