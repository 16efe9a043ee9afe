from django.urls import path

from jaded_ledger.searches import comparing_views, search_views, views

app_name = "searches"
urlpatterns = [
    path("", views.all_searches, name="all"),
    path("save", views.save, name="save"),
    path("starters/<slug:key>", views.open_starter, name="starter"),
    path("compare", comparing_views.compare_two, name="compare"),
    path("<int:pk>", search_views.one_search, name="search"),
    path("<int:pk>/open", views.open_search, name="open"),
    path("<int:pk>/act", search_views.act, name="act"),
]
