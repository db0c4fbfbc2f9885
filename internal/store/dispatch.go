package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Delivery is one delivery as it is kept.
type Delivery struct {
	ID        int64
	MessageID int64
	Channel   roster.Channel
	Address   string
	Sender    string // the name of an email, the number of a text or a call; "" for the organisation's
	Subject   string
	Body      string
	HTML      string // of a formatted email; its pictures are named as ContentID does
	Link      string // that a push opens
	Parts     int
	Seconds   int
	Cost      money.Amount
	Key       string // the idempotency key of its hand-over
	State     delivery.State
	Attempts  int
	QueuedAt  time.Time
	Detail    string
	UpdatedAt time.Time
}

func deliveryOf(row query.Delivery) Delivery {
	return Delivery{
		ID: row.ID, MessageID: row.MessageID, Channel: row.Channel, Address: row.Address, Sender: row.Sender, Subject: row.Subject, Body: row.Body, HTML: row.Html, Link: row.Link,
		Parts: int(row.Parts), Seconds: int(row.Seconds), Cost: row.Cost, Key: row.Key, State: row.State,
		Attempts: int(row.Attempts), QueuedAt: at(row.QueuedAt), Detail: row.Detail, UpdatedAt: at(row.UpdatedAt),
	}
}

// Recover forgets what was under way when the process ended: claims, so that
// those deliveries are handed over again under their old key, imports, and
// sessions that have run out.
func (s *Store) Recover(ctx context.Context) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := q.ReleaseClaims(ctx); err != nil {
			return err
		}
		return errors.Join(q.AbandonImports(ctx), q.DropOldSessions(ctx))
	})
}

// Release queues the deliveries of every message whose hold is over and
// returns those messages.
func (s *Store) Release(ctx context.Context, now time.Time) ([]int64, error) {
	due, err := s.read().MessagesDue(ctx, millis(now))
	if err != nil || len(due) == 0 {
		return nil, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		for _, id := range due {
			n, err := q.ReleaseMessage(ctx, query.ReleaseMessageParams{ID: id, LeavesAt: millis(now)})
			if err != nil {
				return err
			}
			if n == 0 {
				continue // stopped in the last moment
			}
			if err := q.QueueDeliveries(ctx, query.QueueDeliveriesParams{MessageID: id, Now: millis(now)}); err != nil {
				return err
			}
		}
		return nil
	})
	return due, err
}

// Claim takes up to limit deliveries of a channel that are due. From then on
// they count as leaving: Stop does not reach them any more.
func (s *Store) Claim(ctx context.Context, channel roster.Channel, now time.Time, limit int) ([]Delivery, error) {
	var claimed []Delivery
	err := s.write(ctx, func(q *query.Queries) error {
		rows, err := q.DueDeliveries(ctx, query.DueDeliveriesParams{Channel: channel, DueAt: millis(now), Limit: int64(limit)})
		if err != nil {
			return err
		}
		ids := make([]int64, len(rows))
		for i, row := range rows {
			ids[i] = row.ID
			claimed = append(claimed, deliveryOf(row))
		}
		return q.ClaimDeliveries(ctx, ids)
	})
	return claimed, err
}

// NextDue is when a channel has something to do next, or the zero time.
func (s *Store) NextDue(ctx context.Context, channel roster.Channel) (time.Time, error) {
	ms, err := s.read().NextDue(ctx, channel)
	return at(ms), err
}

// Handover is what became of trying to hand over a claimed delivery.
type Handover struct {
	Delivery Delivery
	State    delivery.State // Carrier, Retrying, Failed or Expired
	Due      time.Time      // when to try again, for Retrying
	Detail   string
	Gone     bool // the carrier says that the address does not exist
	Blames   bool // what it says concerns the address, and not the message or itself
}

// Finish records hand-overs and ends the messages of which nothing is left to do.
func (s *Store) Finish(ctx context.Context, done []Handover, now time.Time) error {
	err := s.write(ctx, func(q *query.Queries) error {
		for _, h := range done {
			if err := finish(ctx, q, h, now); err != nil {
				return fmt.Errorf("delivery %d: %w", h.Delivery.ID, err)
			}
		}
		_, err := q.EndMessages(ctx, millis(now))
		return err
	})
	if err == nil {
		s.converse(done)
	}
	return err
}

// begins reports whether a hand-over began or went on with a text conversation.
func (h Handover) begins() bool {
	return h.Delivery.Channel == roster.Text && h.State == delivery.Carrier && h.Delivery.Sender != ""
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

func (s *Store) converse(done []Handover) {
	for _, h := range done {
		if h.begins() {
			s.conversations.Store(h.Delivery.Address, h.Delivery.Sender)
		}
	}
}

func finish(ctx context.Context, q *query.Queries, h Handover, now time.Time) error {
	// A report may have overtaken the answer to the hand-over itself.
	row, err := q.DeliveryByID(ctx, h.Delivery.ID)
	if err != nil {
		return err
	}
	state, detail, attempts := row.State, row.Detail, row.Attempts+1
	if h.State == delivery.Retrying && row.State.Here() {
		state, detail = delivery.Retrying, h.Detail
	} else if next := delivery.Advance(row.State, h.State); next != row.State {
		state, detail = next, h.Detail
	}
	if err := q.SetDelivery(ctx, query.SetDeliveryParams{
		ID: row.ID, State: state, Attempts: attempts, DueAt: millis(h.Due), Detail: detail, UpdatedAt: millis(now),
	}); err != nil {
		return err
	}
	if h.begins() {
		if err := q.PutConversation(ctx, query.PutConversationParams{Address: row.Address, Number: row.Sender}); err != nil {
			return err
		}
	}
	if h.State == delivery.Failed && !h.Blames {
		return nil
	}
	health, known := delivery.Health(h.State, h.Gone)
	return learn(ctx, q, row, health, known, h.Detail, now)
}

func day(t time.Time) string { return t.Format(time.DateOnly) }

// learn updates what is known about an address, wherever it stands on the roster.
func learn(ctx context.Context, q *query.Queries, d query.Delivery, health roster.Health, known bool, detail string, now time.Time) error {
	if !known {
		return nil
	}
	wasDead, err := q.IsDead(ctx, query.IsDeadParams{Channel: d.Channel, Value: d.Address})
	if err != nil {
		return err
	}
	failed := ""
	if health != roster.Good {
		failed = day(now)
	}
	changed, err := q.SetHealth(ctx, query.SetHealthParams{Channel: d.Channel, Value: d.Address, Health: health, Detail: detail, FailedOn: failed})
	if err != nil {
		return err
	}
	// Only death and resurrection change a plan; the rest need not make a new snapshot.
	if changed > 0 && (health == roster.Dead || wasDead) {
		return q.BumpRevision(ctx)
	}
	return nil
}
