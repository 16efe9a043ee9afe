from django.urls import path

from jaded_ledger.properties import print_views, views

app_name = "properties"
urlpatterns = [
    path("<int:pk>/", views.show, name="property"),
    path("<int:pk>/record.pdf", print_views.printed, name="printed"),
    path("<int:pk>/explained/<path:key>", views.explain, name="explained"),
    path("<int:pk>/others", views.others, name="others"),
    path("<int:pk>/owner", views.owner, name="owner"),
    path("<int:pk>/contacts", views.contacts, name="contacts"),
    path("<int:pk>/grade", views.grade, name="grade"),
    path("papers/<int:pk>", views.paper, name="paper"),
    path("photographs/<int:pk>", views.photograph, name="photograph"),
]
