from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "giftwrap.studio.jobs"
