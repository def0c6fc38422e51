"""Heat: cooling down to the bagging temperature, the dew point, ovens and fryers."""
