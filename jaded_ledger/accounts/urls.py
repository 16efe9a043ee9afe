from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy

from jaded_ledger.accounts import views

WELCOME = auth.PasswordResetConfirmView.as_view(
    template_name="accounts/welcome.html",
    success_url=reverse_lazy("accounts:sign-in"),
    post_reset_login=True,
    post_reset_login_backend="django.contrib.auth.backends.ModelBackend",
)

app_name = "accounts"
urlpatterns = [
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html", redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("welcome/<uidb64>/<token>/", WELCOME, name="welcome"),
    path("you/", views.you, name="you"),
]
