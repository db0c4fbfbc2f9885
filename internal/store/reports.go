package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// mostTogether is how many reports are kept in one transaction.
const mostTogether = 500

// taking is a report that is to be kept.
type taking struct {
	report  delivery.Report
	now     time.Time
	message int64
	err     error // of this one; nothing else fails with it

	id      int64 // of its delivery
	address string
	channel roster.Channel
}

// TakeReport keeps a report and moves its delivery on, unless it is doubled,
// or late. It returns the delivery's message; an unknown delivery is ErrNotFound.
func (s *Store) TakeReport(_ context.Context, r delivery.Report, now time.Time) (messageID int64, err error) {
	t := &taking{report: r.Bounded(now), now: now}
	if err := s.reports.Add(t); err != nil {
		return 0, err
	}
	return t.message, t.err
}

func (s *Store) takeReports(some []*taking) error {
	ctx := context.Background() // a report is kept whoever stops waiting
	now := some[len(some)-1].now
	return s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		kept, rows, err := addReports(ctx, q, some, now)
		if err != nil {
			return err
		}
		moved, moves := movedBy(kept, rows)
		if err := s.moveDeliveries(ctx, tx, moved); err != nil {
			return err
		}
		if err := follow(ctx, q, moves, millis(now)); err != nil {
			return err
		}
		return s.learnFromReports(ctx, q, moved, now)
	})
}

// addReports keeps the reports of known deliveries that were not kept before and
// returns those, in their order, with the deliveries as they are.
func addReports(
	ctx context.Context, q *query.Queries, some []*taking, now time.Time,
) ([]*taking, map[int64]query.DeliveriesByKeyRow, error) {
	keys := make([]string, len(some))
	for i, t := range some {
		keys[i] = t.report.DeliveryKey
	}
	list, err := json.Marshal(keys)
	if err != nil {
		return nil, nil, err
	}
	rows, err := q.DeliveriesByKey(ctx, string(list))
	if err != nil {
		return nil, nil, err
	}
	byKey, byID := map[string]query.DeliveriesByKeyRow{}, map[int64]query.DeliveriesByKeyRow{}
	for _, row := range rows {
		byKey[row.Key], byID[row.ID] = row, row
	}
	type name struct {
		delivery int64
		key      string
	}
	var values [][]any
	known := map[name]*taking{}
	var order []name
	for _, t := range some {
		row, ok := byKey[t.report.DeliveryKey]
		if !ok || !t.report.Via.Speaks(row.Channel) {
			t.err = ErrNotFound
			continue
		}
		t.err, t.message, t.id, t.address, t.channel = nil, row.MessageID, row.ID, row.Address, row.Channel
		n := name{row.ID, t.report.Key}
		if known[n] != nil {
			continue // the same report twice at once
		}
		known[n], order = t, append(order, n)
		values = append(values, []any{row.ID, t.report.Key, t.report.State, t.report.Detail, millis(t.report.OccurredAt),
			t.report.Code})
	}
	if len(values) == 0 {
		return nil, byID, nil
	}
	text, err := json.Marshal(values)
	if err != nil {
		return nil, nil, err
	}
	added, err := q.AddReports(ctx, query.AddReportsParams{Now: millis(now), Reports: string(text)})
	if err != nil {
		return nil, nil, fmt.Errorf("keeping reports: %w", err)
	}
	fresh := map[name]bool{}
	for _, row := range added {
		fresh[name{row.DeliveryID, row.ReportKey}] = true
	}
	var kept []*taking
	for _, n := range order {
		if fresh[n] {
			kept = append(kept, known[n])
		}
	}
	return kept, byID, nil
}

// movedBy returns the reports that move a delivery on, in their order, and what
// they come to for each.
func movedBy(kept []*taking, rows map[int64]query.DeliveriesByKeyRow) (moved []*taking, moves []move) {
	now := map[int64]delivery.State{}
	for _, t := range kept {
		current, known := now[t.id]
		if !known {
			current = rows[t.id].State
		}
		if next := delivery.Advance(current, t.report.State); next != current {
			now[t.id] = next
			moved = append(moved, t)
		}
	}
	for id, state := range now {
		row := rows[id]
		moves = append(moves, move{id, row.MessageID, row.State, state, row.Cost})
	}
	return moved, moves
}

// moveAll is one statement for all rows; sqlc does not read UPDATE … FROM.
const moveAll = `UPDATE deliveries SET state = moved.state, detail = moved.detail, updated_at = moved.at, handed_at = min(handed_at, moved.at),
	arrived_at = CASE WHEN moved.arrived AND arrived_at = 0 THEN moved.at ELSE arrived_at END FROM (
	SELECT json_extract(value, '$[0]') AS id, json_extract(value, '$[1]') AS state,
		json_extract(value, '$[2]') AS detail, json_extract(value, '$[3]') AS at,
		json_extract(value, '$[4]') AS arrived FROM json_each(?)
) AS moved WHERE deliveries.id = moved.id`

// moveDeliveries sets the rows of deliveries that reports moved on; of several for
// one the last counts, which got furthest.
func (s *Store) moveDeliveries(ctx context.Context, tx *sql.Tx, moved []*taking) error {
	if len(moved) == 0 {
		return nil
	}
	last := map[int64][]any{}
	for _, t := range moved {
		last[t.id] = []any{t.id, t.report.State, t.report.Detail, millis(t.report.OccurredAt), t.report.State.Reached()}
	}
	rows, err := json.Marshal(slices.Collect(maps.Values(last)))
	if err != nil {
		return err
	}
	_, err = tx.StmtContext(ctx, s.moveAll).ExecContext(ctx, string(rows))
	return err
}

// learnFromReports keeps what reports teach about addresses and people.
func (s *Store) learnFromReports(ctx context.Context, q *query.Queries, moved []*taking, now time.Time) error {
	var reached []int64
	good := map[arrival][]string{}
	for _, t := range moved {
		if t.report.State.Reached() {
			reached = append(reached, t.id)
			as := arrival{t.channel, t.report.Detail}
			good[as] = append(good[as], t.address)
			continue
		}
		if err := s.learnFromReport(ctx, q, t); err != nil {
			return err
		}
	}
	if len(reached) == 0 {
		return nil
	}
	n, err := q.SetReached(ctx, query.SetReachedParams{Day: day(now), Deliveries: idsText(reached)})
	if err != nil {
		return err
	}
	s.arrived.Store(s.arrived.Load() || n > 0)
	for as, addresses := range good {
		if err := s.learnGood(ctx, q, as, addresses); err != nil {
			return err
		}
	}
	return nil
}

// arrival is how something arrived.
type arrival struct {
	channel roster.Channel
	detail  string
}

// learnGood keeps that addresses work. Only one that was dead changes a plan.
func (s *Store) learnGood(ctx context.Context, q *query.Queries, as arrival, addresses []string) error {
	fresh := s.good.unknown(as.channel, addresses)
	if len(fresh) == 0 {
		return nil
	}
	s.good.add(as.channel, fresh)
	list, err := json.Marshal(fresh)
	if err != nil {
		return err
	}
	if _, err := q.SetGood(ctx, query.SetGoodParams{
		Detail: as.detail, Channel: as.channel, Addresses: string(list),
	}); err != nil {
		return err
	}
	revived, err := q.Revive(ctx, query.ReviveParams{Detail: as.detail, Channel: as.channel, Addresses: string(list)})
	if err != nil || revived == 0 {
		return err
	}
	return q.BumpRevision(ctx)
}

// learnFromReport keeps what a report that tells of no arrival teaches.
func (s *Store) learnFromReport(ctx context.Context, q *query.Queries, t *taking) error {
	health, known := t.report.Health()
	if !known {
		return nil
	}
	return s.learn(ctx, q, t.channel, t.address, health, t.report.Detail, t.now)
}
