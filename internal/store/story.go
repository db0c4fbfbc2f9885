package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Story is all that is known of what became of a message for one recipient.
type Story struct {
	RecipientRecord
	Copy       string       // the language of the copy that they got; "" for the original
	Aside      []plan.Aside // addresses that could not be used
	ReachedAt  time.Time    // when the first delivery arrived
	Deliveries []StoryDelivery
}

// StoryDelivery is a delivery with what it said and what happened to it.
type StoryDelivery struct {
	delivery.Delivery
	Content delivery.Content
	Shared  int    // recipients who share it, this one among them
	Carrier string // that took it
	Events  []delivery.Event
}

// Story returns what became of a message for a recipient.
func (s *Store) Story(ctx context.Context, message, recipient int64) (Story, error) {
	q := s.read()
	r, err := q.Recipient(ctx, query.RecipientParams{ID: recipient, MessageID: message})
	if err != nil {
		return Story{}, found(err)
	}
	out := Story{Copy: r.Copy, ReachedAt: at(r.ReachedAt), RecipientRecord: RecipientRecord{
		ID: r.ID, Person: roster.PersonID(r.PersonID.Int64), Name: r.Name, Language: r.Language, Step: int(r.Step),
		Why: r.Why, Outcome: r.Outcome,
	}}
	if r.Aside != "" {
		if err := json.Unmarshal([]byte(r.Aside), &out.Aside); err != nil {
			return out, fmt.Errorf("reading what was put aside for recipient %d: %w", r.ID, err)
		}
	}
	rows, err := q.StoryDeliveries(ctx, recipient)
	if err != nil {
		return out, err
	}
	ids, contentIDs := make([]int64, len(rows)), make([]int64, len(rows))
	for i, row := range rows {
		ids[i], contentIDs[i] = row.ID, row.ContentID
	}
	contents, err := s.Contents(ctx, contentIDs)
	if err != nil {
		return out, err
	}
	events, err := s.events(ctx, ids)
	if err != nil {
		return out, err
	}
	for _, row := range rows {
		state := row.State.Of(row.Held == 1)
		one := StoryDelivery{Content: contents[row.ContentID], Shared: int(row.Recipients), Carrier: row.Carrier}
		one.Delivery = delivery.Delivery{
			ID: row.ID, Message: message, State: state, Attempts: int(row.Attempts), Detail: row.Detail,
			QueuedAt: at(row.FreeAt), UpdatedAt: at(row.UpdatedAt),
			Envelope: delivery.Envelope{
				Channel: row.Channel, Address: row.Address, Sender: row.Sender, Step: int(row.Step), Parts: int(row.Parts),
				Seconds: int(row.Seconds), Cost: row.Cost,
			},
		}
		one.Events = events[row.ID]
		if row.HandedAt > 0 {
			one.Events = append(one.Events, delivery.Event{At: at(row.HandedAt), State: delivery.Carrier, Carrier: row.Carrier})
		}
		delivery.SortEvents(one.Events)
		out.Deliveries = append(out.Deliveries, one)
	}
	return out, nil
}

// events are the tries that failed and the reports of deliveries, by delivery.
func (s *Store) events(ctx context.Context, ids []int64) (map[int64][]delivery.Event, error) {
	q := s.read()
	tries, err := q.TriesOf(ctx, idsText(ids))
	if err != nil {
		return nil, err
	}
	reports, err := q.ReportsOf(ctx, idsText(ids))
	if err != nil {
		return nil, err
	}
	list := map[int64][]delivery.Event{}
	for _, t := range tries {
		list[t.DeliveryID] = append(list[t.DeliveryID], delivery.Event{
			At: at(t.TriedAt), State: t.State, Carrier: t.Carrier, Code: t.Code, Said: t.Detail,
		})
	}
	for _, r := range reports {
		list[r.DeliveryID] = append(list[r.DeliveryID], delivery.Event{
			At: at(r.OccurredAt), State: r.State, Code: r.Code, Said: r.Detail, Report: true,
		})
	}
	return list, nil
}
