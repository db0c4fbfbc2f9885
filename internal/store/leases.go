package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/turn"
	"upperlantern/internal/store/query"
)

// Leased is a delivery that a run hands over: nobody else does until its lease ends.
type Leased struct {
	delivery.Delivery
	ContentID int64
	Urgency   roster.Urgency
}

// As is the delivery in another state, and what is said of it.
func (l Leased) As(state delivery.State, detail string) Leased {
	l.State, l.Detail = state, detail
	return l
}

// BeginRun begins a life of the program that hands deliveries over, and takes up
// what earlier ones left: plans that were not written to their end, imports, and
// sessions that have run out.
func (s *Store) BeginRun(ctx context.Context, now time.Time) (run int64, err error) {
	host, err := os.Hostname()
	if err != nil {
		return 0, fmt.Errorf("the name of this machine: %w", err)
	}
	unfinished, err := s.read().UnfinishedPlans(ctx)
	if err != nil {
		return 0, err
	}
	for _, id := range unfinished {
		if err := s.clearUnfinished(ctx, id); err != nil {
			return 0, fmt.Errorf("clearing the plan of draft %d: %w", id, err)
		}
	}
	if err := s.clearRounds(ctx); err != nil {
		return 0, err
	}
	stopped, err := s.read().UnfinishedStops(ctx)
	if err != nil {
		return 0, err
	}
	for _, id := range stopped {
		if err := s.stopHere(ctx, id, asideDetail[delivery.Stopped], now); err != nil {
			return 0, fmt.Errorf("stopping the rest of message %d: %w", id, err)
		}
	}
	err = s.write(ctx, func(q *query.Queries) error {
		if run, err = q.BeginRun(ctx, query.BeginRunParams{Host: host, StartedAt: millis(now)}); err != nil {
			return err
		}
		return errors.Join(q.AbandonImports(ctx), q.DropOldSessions(ctx))
	})
	return run, err
}

// RunOut ends the leases that have run out, and those of runs that ended on this
// machine, but not those of the known deliveries, which the run still has in hand.
// What carriers that know keys may have got is queued again; of other deliveries
// nobody can tell whether they left. It returns the messages that this concerns.
func (s *Store) RunOut(ctx context.Context, run int64, known []int64, again bool, now time.Time) ([]int64, error) {
	host, err := os.Hostname()
	if err != nil {
		return nil, fmt.Errorf("the name of this machine: %w", err)
	}
	search := query.RunOutLeasesParams{Now: millis(now), Host: host, Run: run, Known: idsText(known)}
	// Looked for by reading first: mostly there are none, and nobody waits for that.
	if rows, err := s.read().RunOutLeases(ctx, search); err != nil || len(rows) == 0 {
		return nil, err
	}
	var messages []int64
	err = s.write(ctx, func(q *query.Queries) error {
		rows, err := q.RunOutLeases(ctx, search)
		if err != nil {
			return err
		}
		aside := map[delivery.State][]int64{}
		var moves []move
		messages = nil
		for _, row := range rows {
			to := row.State.Abandoned(row.Channel, row.StoppedAt > 0, again)
			aside[to] = append(aside[to], row.ID)
			moves = append(moves, move{row.ID, row.MessageID, row.State, to, row.Cost})
			messages = append(messages, row.MessageID)
		}
		for state, ids := range aside {
			if err := q.SetAside(ctx, query.SetAsideParams{
				State: state, Detail: asideDetail[state], Now: millis(now), Ids: idsText(ids),
			}); err != nil {
				return err
			}
		}
		return follow(ctx, q, moves, millis(now))
	})
	slices.Sort(messages)
	return slices.Compact(messages), err
}

// asideDetail is what is said of deliveries that are put aside in a state; "" is
// what was last heard.
var asideDetail = map[delivery.State]string{
	delivery.Undecided: "not known whether it left: the program ended meanwhile",
	delivery.Stopped:   "stopped before it left",
}

// Release lets every message leave whose hold is over and returns those messages.
func (s *Store) Release(ctx context.Context, now time.Time) ([]int64, error) {
	due, err := s.read().MessagesDue(ctx, query.MessagesDueParams{Now: millis(now), Lead: lead.Milliseconds()})
	if err != nil || len(due) == 0 {
		return nil, err
	}
	var released []int64
	err = s.write(ctx, func(q *query.Queries) error {
		released = nil
		for _, id := range due {
			n, err := q.ReleaseMessage(ctx, query.ReleaseMessageParams{ID: id, Now: millis(now)})
			if err != nil {
				return err
			}
			if n > 0 { // it was not stopped in the last moment
				released = append(released, id)
			}
		}
		_, err := q.EndMessages(ctx, query.EndMessagesParams{Now: millis(now), Ids: idsText(released)})
		return err
	})
	return released, err
}

// Room is how many deliveries may be leased in all, and how many of them may be
// less than emergencies.
type Room struct{ Most, Others int }

// of is the room for deliveries of an urgency.
func (r Room) of(u roster.Urgency) int {
	if u == roster.Emergency {
		return r.Most
	}
	return min(r.Most, r.Others)
}

// Lease takes deliveries of a channel that are due for a run, until an instant: the
// most urgent first, and of messages that are equally urgent the same number each,
// beginning after a message. It returns them in the order in which they leave.
func (s *Store) Lease(
	ctx context.Context, run int64, channel roster.Channel, room Room, after int64, now, until time.Time,
) ([]Leased, error) {
	leaving, err := s.read().Leaving(ctx, millis(now))
	if err != nil || !slices.ContainsFunc(leaving, func(m query.LeavingRow) bool { return room.of(m.Urgency) > 0 }) {
		return nil, err
	}
	var leased []Leased
	err = s.write(ctx, func(q *query.Queries) error {
		leaving, err := q.Leaving(ctx, millis(now)) // once more: one may have been stopped
		if err != nil {
			return err
		}
		leased = nil
		room := room
		for _, urgency := range slices.Backward(roster.Urgencies) {
			some, err := leaseShares(ctx, q, messagesOf(leaving, urgency, after), room.of(urgency), query.LeaseParams{
				Run: run, Until: millis(until), Channel: channel, Now: millis(now),
			})
			if err != nil {
				return err
			}
			for _, row := range some {
				leased = append(leased, leasedOf(row.LeaseRow, channel, urgency, row.released))
			}
			room.Most -= len(some)
			if urgency != roster.Emergency {
				room.Others -= len(some)
			}
		}
		return nil
	})
	return leased, err
}

// messagesOf are those of an urgency, beginning after a message.
func messagesOf(leaving []query.LeavingRow, urgency roster.Urgency, after int64) []query.LeavingRow {
	var list []query.LeavingRow
	for _, m := range leaving {
		if m.Urgency == urgency {
			list = append(list, m)
		}
	}
	last := slices.IndexFunc(list, func(m query.LeavingRow) bool { return m.ID > after })
	return slices.Concat(list[max(0, last):], list[:max(0, last)])
}

type leaseRow struct {
	query.LeaseRow
	released int64
}

func leaseShares(
	ctx context.Context, q *query.Queries, messages []query.LeavingRow, most int, p query.LeaseParams,
) ([]leaseRow, error) {
	shares := make([][]leaseRow, len(messages))
	err := turn.Deal(most, len(messages), func(side, most int) (int, error) {
		p.MessageID, p.Most = messages[side].ID, int64(most)
		rows, err := q.Lease(ctx, p)
		for _, row := range rows {
			shares[side] = append(shares[side], leaseRow{row, messages[side].ReleasedAt})
		}
		return len(rows), err
	})
	return turn.Interleave(shares), err
}

func leasedOf(row query.LeaseRow, channel roster.Channel, urgency roster.Urgency, released int64) Leased {
	return Leased{ContentID: row.ContentID, Urgency: urgency, Delivery: delivery.Delivery{
		ID: row.ID, Message: row.MessageID, Key: row.Key, Attempts: int(row.Attempts),
		QueuedAt: at(max(row.QueuedAt, released)),
		Envelope: delivery.Envelope{Channel: channel, Address: row.Address, Sender: row.Sender},
	}}
}

// Contents returns what some deliveries say, by identifier.
func (s *Store) Contents(ctx context.Context, ids []int64) (map[int64]delivery.Content, error) {
	rows, err := s.read().ContentsOf(ctx, idsText(ids))
	if err != nil {
		return nil, err
	}
	contents := make(map[int64]delivery.Content, len(rows))
	for _, row := range rows {
		c := delivery.Content{
			Channel: row.Channel, Language: row.Language, Subject: row.Subject, Body: row.Body, HTML: row.Html, Link: row.Link,
		}
		if err := json.Unmarshal([]byte(row.Parts), &c.Parts); err != nil {
			return nil, fmt.Errorf("reading content %d: %w", row.ID, err)
		}
		contents[row.ID] = c
	}
	return contents, nil
}

// NextDue is when a channel has something to do next, or the zero time.
func (s *Store) NextDue(ctx context.Context, channel roster.Channel) (time.Time, error) {
	ms, err := s.read().NextDue(ctx, channel)
	return at(ms), err
}

// NextRelease is when the next message is released, or the zero time. One that is to be
// compared with the roster first is released when that was done.
func (s *Store) NextRelease(ctx context.Context, now time.Time) (time.Time, error) {
	ms, err := s.read().NextRelease(ctx, query.NextReleaseParams{Now: millis(now), Lead: lead.Milliseconds()})
	return at(ms), err
}
