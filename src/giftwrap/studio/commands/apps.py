"""What ./giftwrap asks the studio to do, one command a file."""

from django.apps import AppConfig


class CommandsConfig(AppConfig):
    name = "giftwrap.studio.commands"
