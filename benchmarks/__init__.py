"""What is measured: ``make bench``. Every figure stands beside something named."""

import zweistimme  # noqa: F401 - before NumPy, as everything that people start: it says how many threads a product has
