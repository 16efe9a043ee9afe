from django.urls import path

from jaded_ledger.find import column_views, line_views, meaning_views, phrase_views, views

app_name = "find"
urlpatterns = [
    path("", views.find, name="find"),
    path("find/change", views.change, name="change"),
    path("find/text", views.as_text, name="text"),
    path("find/reading", views.reading, name="reading"),
    path("find/suggestions", views.suggestions, name="suggestions"),
    path("find/edit", line_views.edit, name="edit"),
    path("find/edit-group", views.edit_group, name="edit-group"),
    path("find/preview", line_views.preview, name="preview"),
    path("find/names", line_views.names, name="names"),
    path("find/pasted", line_views.pasted, name="pasted"),
    path("find/phrases", phrase_views.phrase_book, name="phrases"),
    path("find/correct", phrase_views.correct, name="correct"),
    path("find/hits/<int:parcel>", phrase_views.hits, name="hits"),
    path("find/picture", line_views.picture, name="picture"),
    path("find/face", views.face, name="face"),
    path("find/columns", column_views.columns, name="columns"),
    path("find/column-sets", column_views.column_sets, name="column-sets"),
    path("find/layout", views.layout, name="layout"),
    path("find/by-hand", line_views.by_hand, name="by-hand"),
    path("find/meanings", meaning_views.meanings, name="meanings"),
    path("find/nearly", line_views.nearly, name="nearly"),
    path("find/owner", views.parcels_of_owner, name="parcels-of-owner"),
    path("find/totals", views.column_totals, name="totals"),
    path("find/chosen", views.chosen, name="chosen"),
    path("find/selection", views.keep_selection, name="keep-selection"),
]
