from django.apps import AppConfig


class ClipsConfig(AppConfig):
    name = "clips"
    default_auto_field = "django.db.models.BigAutoField"
