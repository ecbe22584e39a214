"""Camera RGB as Ground leaves it: the stages on the sensor's raster, then the one resampling."""
