from django.urls import path

from jaded_ledger.maps import views

app_name = "maps"
urlpatterns = [
    path("tiles/<int:version>/<int:zoom>/<int:column>/<int:row>", views.tile, name="tile"),
    path("in-view", views.in_view, name="in-view"),
    path("labels", views.labels, name="labels"),
    path("most", views.most, name="most"),
    path("card/<int:pk>", views.card, name="card"),
    path("matches.geojson", views.geojson, name="geojson"),
]
