"""A voice made from samples, at the desk."""

from zweistimme.window.sampling.panel import NAME, SamplingPanel

__all__ = ["NAME", "SamplingPanel"]
