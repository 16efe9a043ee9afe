from django.urls import path

from jaded_ledger.find import views

app_name = "find"
urlpatterns = [
    path("", views.find, name="find"),
    path("find/change", views.change, name="change"),
    path("find/text", views.as_text, name="text"),
    path("find/suggestions", views.suggestions, name="suggestions"),
    path("find/edit", views.edit, name="edit"),
    path("find/edit-group", views.edit_group, name="edit-group"),
    path("find/names", views.names, name="names"),
    path("find/chosen", views.chosen, name="chosen"),
    path("find/selection", views.keep_selection, name="keep-selection"),
]
