from django.apps import AppConfig


class LogConfig(AppConfig):
    name = "log"
    default_auto_field = "django.db.models.BigAutoField"
