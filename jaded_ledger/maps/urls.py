from django.urls import path

from jaded_ledger.maps import area_views, background_views, sale_views, views

app_name = "maps"
urlpatterns = [
    path("tiles/<int:version>/<int:zoom>/<int:column>/<int:row>", views.tile, name="tile"),
    path("in-view", views.in_view, name="in-view"),
    path("labels", views.labels, name="labels"),
    path("marks", views.marks, name="marks"),
    path("owner/<int:pk>", views.of_owner, name="of-owner"),
    path("most", views.most, name="most"),
    path("card/<int:pk>", views.card, name="card"),
    path("asked", area_views.asked, name="asked"),
    path("at-point", area_views.at_point, name="at-point"),
    path("areas", area_views.all_areas, name="areas"),
    path("areas/menu", area_views.menu, name="areas-menu"),
    path("areas/drawn", area_views.drawn, name="drawn"),
    path("areas/keep", area_views.keep, name="keep-area"),
    path("areas/<int:pk>", area_views.outline, name="outline"),
    path("areas/<int:pk>/act", area_views.act, name="area-act"),
    path("areas.geojson", area_views.geojson, name="areas-geojson"),
    path("background", background_views.background, name="background"),
    path("background/<int:pk>/remove", background_views.remove_background, name="remove-background"),
    path("background/<int:pk>/<int:zoom>/<int:column>/<int:row>", background_views.background_tile_of, name="background-tile"),
    path("nearby/<int:pk>", sale_views.nearby, name="nearby"),
    path("around/<int:pk>", sale_views.around_sale, name="around-sale"),
]
