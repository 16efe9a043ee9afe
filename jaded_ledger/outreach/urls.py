from django.urls import path

from jaded_ledger.outreach import mailing_views, reply_views, response_views, views

app_name = "outreach"
urlpatterns = [
    path("", mailing_views.mailings, name="mailings"),
    path("sent/", views.sent, name="sent"),
    path("from/<str:key>/", mailing_views.begin_mailing, name="begin"),
    path("mailings/<int:pk>/", mailing_views.mailing, name="mailing"),
    path("mailings/<int:pk>/change", mailing_views.change_mailing, name="change-mailing"),
    path("mailings/<int:pk>/make", mailing_views.make_mailing, name="make-mailing"),
    path("mailings/<int:pk>/act", mailing_views.act_on_mailing, name="act-on-mailing"),
    path("mailings/<int:pk>/put-back", mailing_views.put_back_mailing, name="put-back-mailing"),
    path("mailings/<int:pk>/pieces.csv", mailing_views.merge, name="merge"),
    path("alignment/<str:key>.pdf", mailing_views.alignment, name="alignment"),
    path("ring/", reply_views.ring, name="ring"),
    path("ring/<int:pk>/note", reply_views.note_reply, name="note-reply"),
    path("ring/<int:pk>/undo", reply_views.undo_reply, name="undo-reply"),
    path("response/", response_views.response, name="response"),
    path("do-not-contact/", reply_views.do_not_contact, name="do-not-contact"),
    path("do-not-contact/<int:pk>/end", reply_views.end_do_not_contact, name="end-do-not-contact"),
    path("settings/", reply_views.settings, name="settings"),
    path("settings/printers/<int:pk>/put-back", reply_views.put_back, name="put-back-printer"),
    path("contacts/<str:key>/", views.contacts, name="contacts"),
]
