from django.urls import path

from jaded_ledger.properties import below_views, print_views, property_acts, views

app_name = "properties"
urlpatterns = [
    path("<int:pk>/", views.show, name="property"),
    path("<int:pk>/record.pdf", print_views.printed, name="printed"),
    path("<int:pk>/explained/<path:key>", views.explain, name="explained"),
    path("<int:pk>/others", below_views.others, name="others"),
    path("<int:pk>/more", below_views.more, name="more"),
    path("<int:pk>/owner", views.owner, name="owner"),
    path("<int:pk>/contacts", views.contacts, name="contacts"),
    path("<int:pk>/act", property_acts.act, name="act"),
    path("<int:pk>/grade", views.grade, name="grade"),
    path("papers/<int:pk>", views.paper, name="paper"),
    path("photographs/<int:pk>", views.photograph, name="photograph"),
]
