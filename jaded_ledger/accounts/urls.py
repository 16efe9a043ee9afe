from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy

from jaded_ledger.accounts import audit_views, deletion, single_sign_on, two_factor_views, views

WELCOME = auth.PasswordResetConfirmView.as_view(
    template_name="accounts/welcome.html",
    success_url=reverse_lazy("accounts:sign-in"),
    post_reset_login=True,
    post_reset_login_backend="django.contrib.auth.backends.ModelBackend",
)

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-in/code/", two_factor_views.code, name="code"),
    path("sign-in/elsewhere/", single_sign_on.leave, name="sign-in-elsewhere"),
    path("sign-in/elsewhere/back/", single_sign_on.come_back, name="come-back"),
    path("sign-out/", views.sign_out, name="sign-out"),
    path("welcome/<uidb64>/<token>/", WELCOME, name="welcome"),
    path("deleted/<str:key>/<int:pk>/", deletion.undelete_view, name="undelete"),
    path("you/", views.you, name="you"),
    path("you/password/", views.change_password, name="password"),
    path("you/audit/", audit_views.audit, name="audit"),
    path("you/roles/", audit_views.roles, name="roles"),
    path("you/second-factor/", two_factor_views.set_up, name="two-factor"),
]
