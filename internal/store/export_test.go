package store

// UseDriver opens databases with another driver, which a test counts with.
func UseDriver(name string) { driverName = name }
