from django.urls import include, path

urlpatterns = [
    path("", include("jaded_ledger.accounts.urls")),
]
