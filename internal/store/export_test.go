package store

import (
	"time"

	"upperlantern/internal/core/delivery"
)

// UseDriver opens databases with another driver, which a test counts with.
func UseDriver(name string) { driverName = name }

// TakeTogether keeps reports in one transaction, as those are kept that come at once.
func (s *Store) TakeTogether(reports []delivery.Report, now time.Time) error {
	some := make([]*taking, len(reports))
	for i, r := range reports {
		some[i] = &taking{report: r.Bounded(now), now: now}
	}
	return s.takeReports(some)
}
