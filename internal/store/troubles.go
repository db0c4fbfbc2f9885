package store

import (
	"context"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Trouble is a carrier's own trouble, for which no address is to blame.
type Trouble struct {
	Channel roster.Channel
	Carrier int64  // 0 is what the program was started with
	Detail  string // what the carrier said
	Since   time.Time
	Tries   int // how often it was in trouble since it last was well
	RetryAt time.Time
}

// Troubles lists the carriers that are in trouble.
func (s *Store) Troubles(ctx context.Context) ([]Trouble, error) {
	rows, err := s.read().Troubles(ctx)
	list := make([]Trouble, len(rows))
	for i, row := range rows {
		list[i] = Trouble{row.Channel, row.Carrier, row.Detail, at(row.Since), int(row.Tries), at(row.RetryAt)}
	}
	return list, err
}

// PutTrouble keeps that a carrier is in trouble, since an instant if it was not
// before, and when it is tried again.
func (s *Store) PutTrouble(
	ctx context.Context, channel roster.Channel, carrier int64, detail string, now, retryAt time.Time,
) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.PutTrouble(ctx, query.PutTroubleParams{
			Channel: channel, Carrier: carrier, Detail: detail, Since: millis(now), RetryAt: millis(retryAt),
		})
	})
}

// DropTrouble keeps that a carrier is well again.
func (s *Store) DropTrouble(ctx context.Context, channel roster.Channel, carrier int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.DropTrouble(ctx, query.DropTroubleParams{Channel: channel, Carrier: carrier})
	})
}
