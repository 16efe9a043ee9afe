from django.urls import path

from jaded_ledger.comps import kept_views, list_views, screening_views, settings_views, views

app_name = "comps"
urlpatterns = [
    path("comps/<int:pk>/", views.comps, name="comps"),
    path("comps/<int:pk>/act", views.act, name="act"),
    path("comps/<int:pk>/likest", views.likest, name="likest"),
    path("comps/<int:pk>/lines", views.proposed_lines, name="proposed-lines"),
    path("comps/<int:pk>/trust", views.trust, name="trust"),
    path("comps/<int:pk>/report.pdf", kept_views.report, name="report"),
    path("comps/<int:pk>/with/<str:key>", views.comp, name="comp"),
    path("kept/<int:pk>", kept_views.kept, name="kept"),
    path("kept/<int:pk>/report.pdf", kept_views.kept_report, name="kept-report"),
    path("kept/<int:pk>/remove", kept_views.remove, name="remove-kept"),
    path("chosen/<str:key>", screening_views.screening, name="screening"),
    path("lists/<int:pk>/ranges", list_views.list_ranges, name="list-ranges"),
    path("settings/<int:pk>", settings_views.settings, name="settings"),
]
