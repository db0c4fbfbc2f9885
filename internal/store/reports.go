package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
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
	return s.write(ctx, func(q *query.Queries) error {
		kept, states, err := addReports(ctx, q, some, now)
		if err != nil {
			return err
		}
		moved, moves, err := moveOnReports(ctx, q, kept, states)
		if err != nil {
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
func addReports(ctx context.Context, q *query.Queries, some []*taking, now time.Time) ([]*taking, map[int64]query.DeliveriesByKeyRow, error) {
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
		values = append(values, []any{row.ID, t.report.Key, t.report.State, t.report.Detail, millis(t.report.OccurredAt)})
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

// moveOnReports moves deliveries on by their reports and returns the reports that
// moved one, and the moves.
func moveOnReports(ctx context.Context, q *query.Queries, kept []*taking, rows map[int64]query.DeliveriesByKeyRow) (moved []*taking, moves []move, err error) {
	last := map[int64]*taking{} // that moved a delivery
	now := map[int64]delivery.State{}
	for _, t := range kept {
		current, known := now[t.id]
		if !known {
			current = rows[t.id].State
		}
		if next := delivery.Advance(current, t.report.State); next != current {
			now[t.id], last[t.id] = next, t
			moved = append(moved, t)
		}
	}
	sets := map[query.MoveDeliveriesParams][]int64{}
	for id, t := range last {
		row := rows[id]
		moves = append(moves, move{id, row.MessageID, row.State, now[id], row.Cost})
		set := query.MoveDeliveriesParams{State: now[id], Detail: t.report.Detail, UpdatedAt: millis(t.report.OccurredAt)}
		sets[set] = append(sets[set], id)
	}
	for set, ids := range sets {
		set.Ids = idsText(ids)
		if err := q.MoveDeliveries(ctx, set); err != nil {
			return nil, nil, err
		}
	}
	return moved, moves, nil
}

// learnFromReports keeps what reports teach about addresses and people.
func (s *Store) learnFromReports(ctx context.Context, q *query.Queries, moved []*taking, now time.Time) error {
	var reached []int64
	good := map[roster.Channel][]string{}
	for _, t := range moved {
		if t.report.State.Reached() {
			reached = append(reached, t.id)
			good[t.channel] = append(good[t.channel], t.address)
			continue
		}
		if err := learnFromReport(ctx, q, t); err != nil {
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
	details := map[string]string{}
	for _, t := range moved {
		details[t.address] = t.report.Detail
	}
	for channel, addresses := range good {
		list, err := json.Marshal(addresses)
		if err != nil {
			return err
		}
		better, err := q.AddressesNot(ctx, query.AddressesNotParams{Channel: channel, Health: roster.Good, Addresses: string(list)})
		if err != nil {
			return err
		}
		for _, address := range better {
			if err := learn(ctx, q, channel, address, roster.Good, details[address], now); err != nil {
				return err
			}
		}
	}
	return nil
}

// learnFromReport keeps what a report that tells of no arrival teaches.
func learnFromReport(ctx context.Context, q *query.Queries, t *taking) error {
	gones := int64(0)
	if t.report.Via == delivery.ViaMail && t.report.Gone {
		var err error
		gones, err = q.CountGone(ctx, query.CountGoneParams{Channel: t.channel, Value: t.address})
		if errors.Is(err, sql.ErrNoRows) {
			return nil // the address stands on the roster no more
		}
		if err != nil {
			return err
		}
	}
	health, known := t.report.Health(int(gones))
	if !known {
		return nil
	}
	return learn(ctx, q, t.channel, t.address, health, t.report.Detail, t.now)
}
