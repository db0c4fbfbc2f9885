package store

import (
	"context"
	"encoding/json"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// DeliveryRecord is a delivery with what it says.
type DeliveryRecord struct {
	delivery.Delivery
	Content delivery.Content
}

// RecipientRecord is what became of a message for one recipient.
type RecipientRecord struct {
	ID         int64
	Person     roster.PersonID // 0 when they are no longer on the roster
	Name       string
	Language   string
	Step       int
	Why        string
	Outcome    record.Outcome
	Best       delivery.State // the state that says most
	Deliveries []delivery.Delivery
}

// LeftOutRecord is somebody who was named and got nothing.
type LeftOutRecord struct {
	Person roster.PersonID
	Name   string
	Reason string
	Detail string
}

// Figures are what became of a message, in numbers.
func (s *Store) Figures(ctx context.Context, id int64) (record.Figures, error) {
	m, err := s.Heading(ctx, id)
	return m.Figures, err
}

// Wanted says which recipients of a message are looked for.
type Wanted struct {
	Outcomes []record.Outcome // any of them; none is all
	Words    string           // of a name or an address; "" is any
	First    int              // how many are passed over
	Count    int
}

// Recipients lists what became of a message for those that are wanted, by step and
// then by name, and says how many there are in all.
func (s *Store) Recipients(ctx context.Context, m Heading, w Wanted) (list []RecipientRecord, all int, err error) {
	if len(w.Outcomes) == 0 {
		w.Outcomes = record.Outcomes
	}
	outcomes, err := json.Marshal(w.Outcomes)
	if err != nil {
		return nil, 0, err
	}
	q := s.read()
	words, address := roster.Fold(w.Words), phone.Within(w.Words)
	n, err := q.CountRecipients(ctx, query.CountRecipientsParams{
		MessageID: m.ID, Outcomes: string(outcomes), Wanted: words, Address: address,
	})
	if err != nil {
		return nil, 0, err
	}
	rows, err := q.RecipientsPage(ctx, query.RecipientsPageParams{
		MessageID: m.ID, Outcomes: string(outcomes), Wanted: words, Address: address, First: int64(w.First),
		Count: int64(w.Count),
	})
	if err != nil {
		return nil, 0, err
	}
	list, err = s.withDeliveries(ctx, rows, m.Waits())
	return list, int(n), err
}

// RecipientsAfter lists what became of a message for those after one of them, in the
// order in which they were planned.
func (s *Store) RecipientsAfter(ctx context.Context, m Heading, after int64, count int) ([]RecipientRecord, error) {
	rows, err := s.read().RecipientsAfter(ctx, query.RecipientsAfterParams{
		MessageID: m.ID, After: after, Count: int64(count),
	})
	if err != nil {
		return nil, err
	}
	list := make([]query.RecipientsPageRow, len(rows))
	for i, r := range rows {
		list[i] = query.RecipientsPageRow(r)
	}
	return s.withDeliveries(ctx, list, m.Waits())
}

// withDeliveries are recipients with what became of their deliveries.
func (s *Store) withDeliveries(
	ctx context.Context, rows []query.RecipientsPageRow, held bool,
) ([]RecipientRecord, error) {
	ids, place := make([]int64, len(rows)), map[int64]int{}
	list := make([]RecipientRecord, len(rows))
	for i, r := range rows {
		ids[i], place[r.ID] = r.ID, i
		list[i] = RecipientRecord{
			ID: r.ID, Person: roster.PersonID(r.PersonID.Int64), Name: r.Name, Language: r.Language, Step: int(r.Step),
			Why: r.Why, Outcome: r.Outcome,
		}
	}
	return list, s.addDeliveriesTo(ctx, list, place, ids, held)
}

func (s *Store) addDeliveriesTo(
	ctx context.Context, list []RecipientRecord, place map[int64]int, ids []int64, held bool,
) error {
	rows, err := s.read().DeliveriesOfRecipients(ctx, idsText(ids))
	if err != nil {
		return err
	}
	states := make([][]delivery.State, len(list))
	for _, row := range rows {
		i, state := place[row.RecipientID], row.State.Of(held)
		states[i] = append(states[i], state)
		list[i].Deliveries = append(list[i].Deliveries, delivery.Delivery{
			Envelope: delivery.Envelope{Channel: row.Channel, Address: row.Address, Cost: row.Cost},
			State:    state, Attempts: int(row.Attempts), Detail: row.Detail, UpdatedAt: at(row.UpdatedAt),
		})
	}
	for i := range list {
		list[i].Best = record.Best(states[i])
	}
	return nil
}

// Mark is a recipient in one glance: the channel and the state that say most.
type Mark struct {
	Channel roster.Channel
	State   delivery.State
}

// Marks are the recipients of a message, in the order of Recipients.
func (s *Store) Marks(ctx context.Context, m Heading) ([]Mark, error) {
	rows, err := s.read().RecipientStates(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	held := m.Waits()
	marks := make([]Mark, 0, m.Figures.Recipients)
	for i := 0; i < len(rows); {
		best := Mark{rows[i].Channel, rows[i].State.Of(held)}
		next := i + 1
		for ; next < len(rows) && rows[next].RecipientID == rows[i].RecipientID; next++ {
			if state := rows[next].State.Of(held); record.Best([]delivery.State{best.State, state}) != best.State {
				best = Mark{rows[next].Channel, state}
			}
		}
		marks, i = append(marks, best), next
	}
	return marks, nil
}

// LeftOut lists who was named and got nothing, and the dependents among them who
// were told through a guardian.
func (s *Store) LeftOut(ctx context.Context, id int64) (left, told []LeftOutRecord, err error) {
	rows, err := s.read().MessageLeftOut(ctx, id)
	for _, l := range rows {
		one := LeftOutRecord{roster.PersonID(l.PersonID.Int64), l.Name, l.Reason, l.Detail}
		if plan.Reason(l.Reason) == plan.GuardiansTold {
			told = append(told, one)
		} else {
			left = append(left, one)
		}
	}
	return left, told, err
}

// Failures counts what carriers said of deliveries that did not arrive.
func (s *Store) Failures(ctx context.Context, id int64) ([]record.Failure, error) {
	rows, err := s.read().Failures(ctx, id)
	list := make([]record.Failure, len(rows))
	for i, row := range rows {
		list[i] = record.Failure{Detail: row.Detail, Deliveries: int(row.Deliveries), Retrying: row.Retrying == 1}
	}
	record.SortFailures(list)
	return list, err
}

// Languages counts the recipients of a message by what they prefer to read and the
// copy that they got.
func (s *Store) Languages(ctx context.Context, id int64) ([]plan.LanguageCount, error) {
	rows, err := s.read().CountLanguages(ctx, id)
	list := make([]plan.LanguageCount, len(rows))
	for i, row := range rows {
		list[i] = plan.LanguageCount{Tag: row.Language, Got: row.Copy, People: int(row.People)}
	}
	return list, err
}

// Steps counts the recipients of a message by the step that reaches them.
func (s *Store) Steps(ctx context.Context, id int64) (map[int]int, error) {
	rows, err := s.read().CountSteps(ctx, id)
	people := make(map[int]int, len(rows))
	for _, row := range rows {
		people[int(row.Step)] = int(row.People)
	}
	return people, err
}

// Deliveries lists what a message planned, in the order of the plan.
func (s *Store) Deliveries(ctx context.Context, id int64) ([]DeliveryRecord, error) {
	rows, err := s.read().MessageDeliveries(ctx, id)
	if err != nil {
		return nil, err
	}
	list := make([]DeliveryRecord, len(rows))
	for i, row := range rows {
		list[i] = DeliveryRecord{
			Delivery: delivery.Delivery{
				ID: row.ID, Message: row.MessageID, Key: row.Key, State: row.State.Of(row.Held == 1),
				Attempts: int(row.Attempts), Detail: row.Detail, UpdatedAt: at(row.UpdatedAt),
				Envelope: delivery.Envelope{
					Channel: row.Channel, Address: row.Address, Sender: row.Sender, Step: int(row.Step), Parts: int(row.Parts),
					Seconds: int(row.Seconds), Cost: row.Cost,
				},
			},
			Content: delivery.Content{
				Channel: row.Channel, Subject: row.Subject, Body: row.Body, HTML: row.Html, Link: row.Link,
			},
		}
	}
	return list, nil
}

// Moments are how many deliveries of a message came how far in which tenth of a second.
func (s *Store) Moments(ctx context.Context, id int64) ([]record.Moment, error) {
	rows, err := s.read().Moments(ctx, id)
	list := make([]record.Moment, len(rows))
	for i, row := range rows {
		list[i] = record.Moment{
			At: time.UnixMilli(row.Tenth * 100).UTC(), Channel: row.Channel, What: record.What(row.What),
			Count: int(row.Deliveries),
		}
	}
	return list, err
}

// ReachedAfter are how long after a message was free to leave its recipients were
// reached, the soonest first.
func (s *Store) ReachedAfter(ctx context.Context, id int64) ([]time.Duration, error) {
	released, err := s.read().ReleasedAt(ctx, id)
	if err != nil {
		return nil, found(err)
	}
	rows, err := s.read().ReachedAts(ctx, id)
	list := make([]time.Duration, len(rows))
	for i, ms := range rows {
		list[i] = max(0, time.Duration(ms-released)*time.Millisecond)
	}
	return list, err
}
