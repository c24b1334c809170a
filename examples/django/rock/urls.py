"""The addresses of the site."""

from django.urls import path

from rock import views

urlpatterns = [path("", views.index), path("log/", views.log)]
