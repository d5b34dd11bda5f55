from django.apps import AppConfig


class ReviewConfig(AppConfig):
    name = "giftwrap.studio.review"
