package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/store/query"
)

// mostTogether is how many reports are kept in one transaction.
const mostTogether = 200

// taking is a report that is to be kept.
type taking struct {
	report  delivery.Report
	now     time.Time
	message int64
	err     error // of this one; nothing else fails with it
}

// TakeReport keeps a report and moves its delivery on, unless it is doubled,
// or late. It returns the delivery's message; an unknown delivery is ErrNotFound.
func (s *Store) TakeReport(_ context.Context, r delivery.Report, now time.Time) (messageID int64, err error) {
	t := &taking{report: r, now: now}
	if err := s.reports.Add(t); err != nil {
		return 0, err
	}
	return t.message, t.err
}

func (s *Store) takeReports(some []*taking) error {
	ctx := context.Background() // a report is kept whoever stops waiting
	return s.write(ctx, func(q *query.Queries) error {
		for _, t := range some {
			t.err = s.takeReport(ctx, q, t)
			if t.err != nil && !errors.Is(t.err, ErrNotFound) {
				return t.err
			}
		}
		return nil
	})
}

func (s *Store) takeReport(ctx context.Context, q *query.Queries, t *taking) error {
	r := t.report.Bounded(t.now)
	row, err := q.DeliveryByKey(ctx, r.DeliveryKey)
	if err != nil {
		return found(err)
	}
	if !r.Via.Speaks(row.Channel) {
		return ErrNotFound
	}
	t.message = row.MessageID
	fresh, err := q.AddReport(ctx, query.AddReportParams{
		DeliveryID: row.ID, ReportKey: r.Key, State: r.State, Detail: r.Detail, OccurredAt: millis(r.OccurredAt), ReceivedAt: millis(t.now),
	})
	if err != nil || fresh == 0 {
		return err
	}
	next := delivery.Advance(row.State, r.State)
	if next == row.State {
		return nil
	}
	if err := q.MoveDelivery(ctx, query.MoveDeliveryParams{ID: row.ID, State: next, Detail: r.Detail, UpdatedAt: millis(r.OccurredAt)}); err != nil {
		return err
	}
	if next.Reached() {
		n, err := q.SetReached(ctx, query.SetReachedParams{Day: day(t.now), DeliveryID: row.ID})
		if err != nil {
			return err
		}
		s.arrived.Store(s.arrived.Load() || n > 0)
	}
	gones := int64(0)
	if r.Via == delivery.ViaMail && r.Gone {
		if gones, err = q.CountGone(ctx, query.CountGoneParams{Channel: row.Channel, Value: row.Address}); errors.Is(err, sql.ErrNoRows) {
			err = nil // the address stands on the roster no more
		}
		if err != nil {
			return err
		}
	}
	health, known := r.Health(int(gones))
	return learn(ctx, q, row, health, known, r.Detail, t.now)
}
