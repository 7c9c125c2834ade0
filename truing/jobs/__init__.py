"""Jobs: what is to be made, how far it may be off, and what this machine makes of it."""

from truing.jobs.features import FEATURE_TYPES, AnyFeature, Job
from truing.jobs.fit import DemandFit, FeatureFit, JobFit, fit
from truing.jobs.ground import Ground, ground

__all__ = [
    "FEATURE_TYPES",
    "AnyFeature",
    "DemandFit",
    "FeatureFit",
    "Ground",
    "Job",
    "JobFit",
    "fit",
    "ground",
]
