from django.urls import path

from jaded_ledger.charts import views

app_name = "charts"
urlpatterns = [
    path("chart", views.chart, name="chart"),
    path("chart.svg", views.file, name="file"),
]
