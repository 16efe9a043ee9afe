from django.urls import path

from jaded_ledger.lists import urgency_views, views

app_name = "lists"
urlpatterns = [
    path("", views.all_lists, name="all"),
    path("new", views.new, name="new"),
    path("overlap", views.overlap, name="overlap"),
    path("urgency", urgency_views.urgency, name="urgency"),
    path("activity", views.activity, name="activity"),
    path("activity/<int:pk>/undo", views.undo, name="undo"),
    path("keep/<str:key>", views.keep, name="keep"),
    path("<int:pk>", views.one_list, name="list"),
    path("<int:pk>/act", views.act, name="act"),
]
