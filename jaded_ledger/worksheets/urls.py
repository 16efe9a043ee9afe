from django.urls import path

from jaded_ledger.worksheets import deals_views, default_views, file_views, files_out, list_views, portfolio_views, views

app_name = "worksheets"
urlpatterns = [
    path("", deals_views.deals, name="deals"),
    path("comps", deals_views.begin, name="begin"),
    path("worksheets/of/<int:pk>", views.begin_worksheet, name="begin-worksheet"),
    path("worksheets/<int:pk>/", views.worksheet, name="worksheet"),
    path("worksheets/<int:pk>/change", views.change_worksheet, name="change-worksheet"),
    path("worksheets/<int:pk>/act", views.act_on_worksheet, name="act-on-worksheet"),
    path("worksheets/<int:pk>/figures/<str:key>", views.figure, name="figure"),
    path("worksheets/<int:pk>/worksheet.pdf", files_out.printed, name="worksheet-pdf"),
    path("worksheets/<int:pk>/worksheet.xlsx", files_out.spreadsheet, name="worksheet-xlsx"),
    path("worksheets/<int:pk>/worksheet.json", files_out.as_json, name="worksheet-json"),
    path("files/of/<int:pk>", file_views.keep, name="keep-file"),
    path("files/<int:pk>", file_views.show, name="file"),
    path("files/<int:pk>/preview.jpg", file_views.preview, name="file-preview"),
    path("files/<int:pk>/remove", file_views.remove, name="remove-file"),
    path("compare", portfolio_views.compare, name="compare"),
    path("assumptions", default_views.assumptions, name="assumptions"),
    path("lists/<int:pk>/screening", list_views.screen_list, name="screen-list"),
]
