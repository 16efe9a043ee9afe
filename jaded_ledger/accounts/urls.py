from django.contrib.auth import views as auth
from django.urls import path

from jaded_ledger.accounts import views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html", redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("you/", views.you, name="you"),
]
