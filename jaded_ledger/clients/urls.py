from django.urls import path

from jaded_ledger.clients import public_views, views

app_name = "clients"
urlpatterns = [
    path("clients/", views.all_clients, name="all"),
    path("clients/new", views.new, name="new"),
    path("clients/settings", views.settings, name="settings"),
    path("clients/<int:pk>/", views.client, name="client"),
    path("clients/<int:pk>/act", views.act, name="act"),
    path("clients/mails/<int:pk>/", views.mail, name="mail"),
    path("clients/mails/<int:pk>/preview", views.preview_mail, name="preview-mail"),
    path("clients/for/<int:pk>", views.fits, name="fits"),
    path("for/<str:key>/", public_views.page, name="page"),
    path("for/<str:key>/answer", public_views.answer, name="answer"),
    path("for/<str:key>/photograph/<int:pk>", public_views.photograph, name="photograph"),
    path("for/<str:key>/stop", public_views.stop, name="stop"),
]
