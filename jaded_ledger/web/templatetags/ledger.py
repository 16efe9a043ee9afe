"""Template components."""

from django import template

register = template.Library()
