from django.contrib import admin
from django.urls import include, path

handler500 = "jaded_ledger.web.errors.internal_error"
urlpatterns = [
    path("", include("jaded_ledger.find.urls")),
    path("charts/", include("jaded_ledger.charts.urls")),
    path("map/", include("jaded_ledger.maps.urls")),
    path("property/", include("jaded_ledger.properties.urls")),
    path("deals/", include("jaded_ledger.comps.urls")),
    path("deals/", include("jaded_ledger.worksheets.urls")),
    path("lists/", include("jaded_ledger.lists.urls")),
    path("searches/", include("jaded_ledger.searches.urls")),
    path("outreach/", include("jaded_ledger.contacts.urls")),
    path("outreach/", include("jaded_ledger.mailings.urls")),
    path("morning/", include("jaded_ledger.watch.urls")),
    path("", include("jaded_ledger.clients.urls")),
    path("mailbox/", include("jaded_ledger.simulators.urls")),
    path("files/", include("jaded_ledger.made_files.urls")),
    path("records/", include("jaded_ledger.intake.urls")),
    path("", include("jaded_ledger.accounts.urls")),
    path("staff/", admin.site.urls),
]
