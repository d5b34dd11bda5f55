from django.apps import AppConfig


class RenderingConfig(AppConfig):
    name = "giftwrap.studio.rendering"
