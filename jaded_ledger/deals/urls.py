from django.urls import path

from jaded_ledger.deals import comps_views, file_views, kept_views, list_views, screening_views, settings_views
from jaded_ledger.deals.worksheets import default_views, files_out, portfolio_views
from jaded_ledger.deals.worksheets import views as worksheet_views

app_name = "deals"
urlpatterns = [
    path("", kept_views.deals, name="deals"),
    path("comps", kept_views.begin, name="begin"),
    path("comps/<int:pk>/", comps_views.comps, name="comps"),
    path("comps/<int:pk>/act", comps_views.act, name="act"),
    path("comps/<int:pk>/likest", comps_views.likest, name="likest"),
    path("comps/<int:pk>/trust", comps_views.trust, name="trust"),
    path("comps/<int:pk>/report.pdf", kept_views.report, name="report"),
    path("comps/<int:pk>/with/<str:key>", comps_views.comp, name="comp"),
    path("kept/<int:pk>", kept_views.kept, name="kept"),
    path("kept/<int:pk>/report.pdf", kept_views.kept_report, name="kept-report"),
    path("kept/<int:pk>/remove", kept_views.remove, name="remove-kept"),
    path("kept/<int:pk>/put-back", kept_views.restore, name="restore-kept"),
    path("chosen/<str:key>", screening_views.screening, name="screening"),
    path("worksheets/of/<int:pk>", worksheet_views.begin_worksheet, name="begin-worksheet"),
    path("worksheets/<int:pk>/", worksheet_views.worksheet, name="worksheet"),
    path("worksheets/<int:pk>/change", worksheet_views.change_worksheet, name="change-worksheet"),
    path("worksheets/<int:pk>/act", worksheet_views.act_on_worksheet, name="act-on-worksheet"),
    path("worksheets/<int:pk>/put-back", worksheet_views.restore_worksheet, name="restore-worksheet"),
    path("worksheets/<int:pk>/figures/<str:key>", worksheet_views.figure, name="figure"),
    path("worksheets/<int:pk>/worksheet.pdf", files_out.printed, name="worksheet-pdf"),
    path("worksheets/<int:pk>/worksheet.xlsx", files_out.spreadsheet, name="worksheet-xlsx"),
    path("worksheets/<int:pk>/worksheet.json", files_out.as_json, name="worksheet-json"),
    path("files/of/<int:pk>", file_views.keep, name="keep-file"),
    path("files/<int:pk>", file_views.show, name="file"),
    path("files/<int:pk>/preview.jpg", file_views.preview, name="file-preview"),
    path("files/<int:pk>/remove", file_views.remove, name="remove-file"),
    path("files/<int:pk>/put-back", file_views.restore, name="restore-file"),
    path("compare", portfolio_views.compare, name="compare"),
    path("assumptions", default_views.assumptions, name="assumptions"),
    path("lists/<int:pk>/ranges", list_views.list_ranges, name="list-ranges"),
    path("settings/<int:pk>", settings_views.settings, name="settings"),
]
