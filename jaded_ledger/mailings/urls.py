from django.urls import path

from jaded_ledger.mailings import letter_views, mail_order_views, mailing_views, reply_views, response_views, series_views, settings_views

app_name = "mailings"
urlpatterns = [
    path("", mailing_views.mailings, name="mailings"),
    path("from/<str:key>/", mailing_views.begin_mailing, name="begin"),
    path("mailings/<int:pk>/", mailing_views.mailing, name="mailing"),
    path("mailings/<int:pk>/change", mailing_views.change_mailing, name="change-mailing"),
    path("mailings/<int:pk>/make", mailing_views.make_mailing, name="make-mailing"),
    path("mailings/<int:pk>/act", mailing_views.act_on_mailing, name="act-on-mailing"),
    path("mailings/<int:pk>/pieces.csv", mailing_views.merge, name="merge"),
    path("mailings/<int:pk>/letters.zip", mailing_views.documents, name="documents"),
    path("mailings/<int:pk>/mail-house", mail_order_views.give, name="give-to-mail-house"),
    path("mailings/<int:pk>/mail-house/ask", mail_order_views.ask_again, name="ask-mail-house"),
    path("mailings/<int:pk>/repeat", series_views.repeat, name="repeat"),
    path("series/<int:pk>/act", series_views.act_on_series, name="act-on-series"),
    path("series/<int:pk>/continue", series_views.continue_series, name="continue-series"),
    path("letters/", letter_views.all_letters, name="letters"),
    path("letters/new", letter_views.new_letter, name="new-letter"),
    path("letters/<int:pk>/", letter_views.letter, name="letter"),
    path("letters/<int:pk>/preview", letter_views.preview_letter, name="preview-letter"),
    path("letters/<int:pk>/remove", letter_views.remove_letter, name="remove-letter"),
    path("return-labels/<str:key>.pdf", settings_views.return_labels, name="return-labels"),
    path("alignment/<str:key>.pdf", mailing_views.alignment, name="alignment"),
    path("ring/", reply_views.ring, name="ring"),
    path("ring/<int:pk>/note", reply_views.note_reply, name="note-reply"),
    path("ring/<int:pk>/undo", reply_views.undo_reply, name="undo-reply"),
    path("response/", response_views.response, name="response"),
    path("settings/", settings_views.settings, name="settings"),
]
