"""What is measured: ``make bench``. Every figure stands beside something named."""
