package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Handover is what became of trying to hand over a leased delivery.
type Handover struct {
	Leased            // in the state that it came to
	Carrier string    // what the one is called that answered
	Code    string    // an enhanced status code (RFC 3463), or ""
	Due     time.Time // when to try again, for Retrying
	Gone    bool      // the carrier says that the address does not exist
	Blames  bool      // what it says concerns the address, and not the message or itself
}

// ended is what a hand-over sets of a delivery's row.
type ended struct {
	state   delivery.State
	due     int64
	detail  string
	taken   bool
	carrier string // that took it
}

// Finish records what became of hand-overs by a run, and ends the messages of
// which nothing is left to be handed over. It returns the messages that it concerns.
func (s *Store) Finish(ctx context.Context, run int64, done []Handover, now time.Time) ([]int64, error) {
	known, err := s.Conversations(ctx)
	if err != nil {
		return nil, err
	}
	messages := map[int64]bool{}
	byID := make(map[int64]Handover, len(done))
	ids := make([]int64, len(done))
	for i, h := range done {
		byID[h.ID], ids[i], messages[h.Message] = h, h.ID, true
	}
	err = s.write(ctx, func(q *query.Queries) error {
		rows, err := q.DeliveriesNow(ctx, idsText(ids))
		if err != nil {
			return err
		}
		sets := map[ended][]int64{}
		var moves []move
		var failed []Handover
		for _, row := range rows {
			h := byID[row.ID]
			if row.LeasedBy != run && h.State == delivery.Retrying {
				continue // another run tries it
			}
			set := endedAs(row, h, now)
			if set.taken = h.State == delivery.Carrier; set.taken {
				set.carrier = h.Carrier
			} else {
				failed = append(failed, h)
			}
			sets[set] = append(sets[set], row.ID)
			if set.state != row.State {
				moves = append(moves, move{row.ID, row.MessageID, row.State, set.state, row.Cost})
			}
		}
		for set, ids := range sets {
			if err := q.SetHandedOver(ctx, query.SetHandedOverParams{
				State: set.state, DueAt: set.due, Detail: set.detail, Now: millis(now), Ids: idsText(ids),
				Taken: flag(set.taken), Carrier: set.carrier,
			}); err != nil {
				return err
			}
		}
		if err := keepTries(ctx, q, failed, now); err != nil {
			return err
		}
		if err := s.learnFrom(ctx, q, done, known, now); err != nil {
			return err
		}
		return follow(ctx, q, moves, millis(now))
	})
	if err != nil {
		return nil, err
	}
	for _, h := range done {
		if h.begins() {
			s.conversations.Store(h.Address, h.Sender)
		}
	}
	return slices.Collect(maps.Keys(messages)), nil
}

// endedAs is what a hand-over makes of a delivery. A report may have overtaken it,
// or Stop.
func endedAs(row query.DeliveriesNowRow, h Handover, now time.Time) ended {
	switch next := delivery.Advance(row.State, h.State); {
	case h.State == delivery.Retrying && row.State.Here() && row.StoppedAt > 0:
		return ended{state: delivery.Stopped, due: millis(now), detail: h.Detail}
	case h.State == delivery.Retrying && row.State.Here():
		return ended{state: delivery.Retrying, due: millis(h.Due), detail: h.Detail}
	case next != row.State:
		return ended{state: next, due: millis(now), detail: h.Detail}
	}
	return ended{state: row.State, due: millis(now), detail: row.Detail}
}

// keepTries keeps the hand-overs that no carrier took, once they are counted.
func keepTries(ctx context.Context, q *query.Queries, failed []Handover, now time.Time) error {
	if len(failed) == 0 {
		return nil
	}
	rows := make([][]any, len(failed))
	for i, h := range failed {
		rows[i] = []any{h.ID, h.Carrier, h.State, h.Code, h.Detail}
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	return q.AddTries(ctx, query.AddTriesParams{Now: millis(now), Tries: string(text)})
}

// learnFrom keeps what hand-overs teach about addresses, and by which number a
// conversation goes on, where that is not known yet.
func (s *Store) learnFrom(
	ctx context.Context, q *query.Queries, done []Handover, known func(string) string, now time.Time,
) error {
	for _, h := range done {
		if h.begins() && known(h.Address) != h.Sender {
			if err := q.PutConversation(ctx, query.PutConversationParams{Address: h.Address, Number: h.Sender}); err != nil {
				return err
			}
		}
		if h.State == delivery.Failed && h.Blames {
			health, _ := delivery.Health(h.State, h.Gone)
			if err := s.learn(ctx, q, h.Channel, h.Address, health, h.Detail, now); err != nil {
				return err
			}
		}
	}
	return nil
}

// begins reports whether a hand-over began or went on with a text conversation.
func (h Handover) begins() bool {
	return h.Channel == roster.Text && h.State == delivery.Carrier && h.Sender != ""
}

// GiveBack ends the leases of deliveries that were not handed over: they leave
// later, or never if their message was stopped meanwhile.
//
// Some leave not before an instant of their own.
func (s *Store) GiveBack(ctx context.Context, ids []int64, later map[int64]time.Time, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		for id, due := range later {
			if err := q.Postpone(ctx, query.PostponeParams{ID: id, Due: millis(due)}); err != nil {
				return err
			}
		}
		rows, err := q.DeliveriesNow(ctx, idsText(ids))
		if err != nil {
			return err
		}
		var stopped []int64
		var moves []move
		for _, row := range rows {
			if row.StoppedAt > 0 && row.State.Here() {
				stopped = append(stopped, row.ID)
				moves = append(moves, move{row.ID, row.MessageID, row.State, delivery.Stopped, row.Cost})
			}
		}
		if err := q.EndLeases(ctx, idsText(ids)); err != nil || len(moves) == 0 {
			return err
		}
		if err := setStopped(ctx, q, stopped, asideDetail[delivery.Stopped], now); err != nil {
			return err
		}
		return follow(ctx, q, moves, millis(now))
	})
}

func setStopped(ctx context.Context, q *query.Queries, ids []int64, detail string, now time.Time) error {
	return q.SetAside(ctx, query.SetAsideParams{
		State: delivery.Stopped, Detail: detail, Now: millis(now), Ids: idsText(ids),
	})
}

func day(t time.Time) string { return t.Format(time.DateOnly) }

// learn keeps that an address failed, wherever it stands on the roster.
func (s *Store) learn(
	ctx context.Context, q *query.Queries, channel roster.Channel, address string, health roster.Health, detail string,
	now time.Time,
) error {
	s.good.remove(channel, address)
	if health == roster.Failing {
		failures, err := q.CountFailure(ctx, query.CountFailureParams{Channel: channel, Value: address})
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		health = delivery.Worn(channel, int(failures))
	}
	wasDead, err := q.IsDead(ctx, query.IsDeadParams{Channel: channel, Value: address})
	if err != nil {
		return err
	}
	changed, err := q.SetHealth(ctx, query.SetHealthParams{
		Channel: channel, Value: address, Health: health, Detail: detail, FailedOn: day(now),
	})
	if err != nil {
		return err
	}
	// Only death and resurrection change a plan; the rest need not make a new snapshot.
	if changed > 0 && (health == roster.Dead || wasDead) {
		return q.BumpRevision(ctx)
	}
	return nil
}

// Conversations returns the number under which somebody was last sent a text,
// by their number. It never waits for the database but the first time.
func (s *Store) Conversations(ctx context.Context) (func(number string) string, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.conversing {
		rows, err := s.read().Conversations(ctx)
		if err != nil {
			return nil, err
		}
		for _, row := range rows {
			s.conversations.LoadOrStore(row.Address, row.Number)
		}
		s.conversing = true
	}
	return func(number string) string {
		ours, _ := s.conversations.Load(number)
		text, _ := ours.(string)
		return text
	}, nil
}
