"""The tests."""

from hypothesis import HealthCheck, settings

# No test is timed: on a busy machine a slow example is no fault.
settings.register_profile("untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("untimed")
