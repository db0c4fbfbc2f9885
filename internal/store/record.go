package store

import (
	"context"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
)

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
	Deliveries []Delivery     // without their content
}

// LeftOutRecord is somebody who was named and got nothing.
type LeftOutRecord struct {
	Person roster.PersonID
	Name   string
	Reason string
	Detail string
}

// Record is what became of a message.
type Record struct {
	Figures    record.Figures
	Recipients []RecipientRecord // by step, then name
	LeftOut    []LeftOutRecord
	Told       []LeftOutRecord // dependents who were told through a guardian
	deliveries []Delivery
}

// Failures counts what carriers said of deliveries that did not arrive.
func (r Record) Failures() []record.Failure {
	heard := make([]record.Heard, len(r.deliveries))
	for i, d := range r.deliveries {
		heard[i] = record.Heard{State: d.State, Detail: d.Detail}
	}
	return record.Failures(heard)
}

// Costs are what has left cost, and what the whole plan would.
func (r Record) Costs() (spent, planned money.Amount) {
	for _, d := range r.deliveries {
		planned += d.Cost
		if !d.State.Here() && d.State != delivery.Stopped {
			spent += d.Cost
		}
	}
	return spent, planned
}

// Languages counts what the recipients prefer to read.
func (r Record) Languages(writtenIn string) []plan.LanguageCount {
	tags := make([]string, len(r.Recipients))
	for i, rec := range r.Recipients {
		tags[i] = rec.Language
	}
	return plan.CountLanguages(tags, writtenIn)
}

// Steps counts the recipients by the step that reaches them, for n steps.
func (r Record) Steps(n int) []int {
	people := make([]int, n)
	for _, rec := range r.Recipients {
		if rec.Step >= 1 && rec.Step <= n {
			people[rec.Step-1]++
		}
	}
	return people
}

// Figures counts what became of a message.
func (s *Store) Figures(ctx context.Context, id int64) (record.Figures, error) {
	q := s.read()
	rows, err := q.RecipientStates(ctx, id)
	if err != nil {
		return record.Figures{}, err
	}
	var f record.Figures
	var states []delivery.State
	seen := map[int64]bool{}
	for i, row := range rows {
		states = append(states, row.State)
		if !seen[row.DeliveryID] {
			seen[row.DeliveryID] = true
			f.CountDelivery(row.State)
		}
		if i+1 == len(rows) || rows[i+1].RecipientID != row.RecipientID {
			f.Count(states)
			states = states[:0]
		}
	}
	left, err := q.CountLeftOut(ctx, id)
	f.LeftOut, f.Told = int(left.LeftOut), int(left.Told)
	return f, err
}

// Record works out what became of a message, for everybody.
func (s *Store) Record(ctx context.Context, id int64) (Record, error) {
	q := s.read()
	figures, err := s.Figures(ctx, id)
	if err != nil {
		return Record{}, err
	}
	out := Record{Figures: figures}
	recipients, err := q.MessageRecipients(ctx, id)
	if err != nil {
		return out, err
	}
	outcomes, err := q.MessageOutcomes(ctx, id)
	if err != nil {
		return out, err
	}
	for _, o := range outcomes {
		out.deliveries = append(out.deliveries, Delivery{
			ID: o.ID, MessageID: id, Channel: o.Channel, Address: o.Address, Cost: o.Cost, State: o.State,
			Attempts: int(o.Attempts), Detail: o.Detail, UpdatedAt: at(o.UpdatedAt),
		})
	}
	deliveries, err := s.deliveriesByRecipient(ctx, id, out.deliveries)
	if err != nil {
		return out, err
	}
	for _, r := range recipients {
		rec := RecipientRecord{
			ID: r.ID, Person: roster.PersonID(r.PersonID.Int64), Name: r.Name, Language: r.Language, Step: int(r.Step), Why: r.Why,
			Deliveries: deliveries[r.ID],
		}
		states := make([]delivery.State, len(rec.Deliveries))
		for i, d := range rec.Deliveries {
			states[i] = d.State
		}
		rec.Outcome, rec.Best = record.Of(states), record.Best(states)
		out.Recipients = append(out.Recipients, rec)
	}
	left, err := q.MessageLeftOut(ctx, id)
	if err != nil {
		return out, err
	}
	for _, l := range left {
		one := LeftOutRecord{roster.PersonID(l.PersonID.Int64), l.Name, l.Reason, l.Detail}
		if plan.Reason(l.Reason) == plan.GuardiansTold {
			out.Told = append(out.Told, one)
		} else {
			out.LeftOut = append(out.LeftOut, one)
		}
	}
	return out, nil
}

func (s *Store) deliveriesByRecipient(ctx context.Context, id int64, deliveries []Delivery) (map[int64][]Delivery, error) {
	byID := make(map[int64]Delivery, len(deliveries))
	for _, d := range deliveries {
		byID[d.ID] = d
	}
	links, err := s.read().RecipientStates(ctx, id)
	if err != nil {
		return nil, err
	}
	out := map[int64][]Delivery{}
	for _, l := range links {
		out[l.RecipientID] = append(out[l.RecipientID], byID[l.DeliveryID])
	}
	return out, nil
}

// Deliveries lists what a message planned, in the order of the plan.
func (s *Store) Deliveries(ctx context.Context, id int64) ([]Delivery, error) {
	rows, err := s.read().MessageDeliveries(ctx, id)
	if err != nil {
		return nil, err
	}
	list := make([]Delivery, len(rows))
	for i, row := range rows {
		list[i] = deliveryOf(row)
	}
	return list, nil
}
