package store

import (
	"context"
	"maps"
	"slices"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/record"
	"upperlantern/internal/store/query"
)

// move is a change of a delivery's state that its row has seen already.
type move struct {
	delivery, message int64
	from, to          delivery.State
	cost              money.Amount
}

// follow brings everything up to date that depends on the states of deliveries:
// the outcomes of their recipients, the figures of their messages, and which
// messages have ended. It belongs into the transaction that made the moves.
func follow(ctx context.Context, q *query.Queries, moves []move, now int64) error {
	changes := map[int64]*record.Figures{}
	var telling []int64
	for _, m := range moves {
		of(changes, m.message).MoveDelivery(m.from, m.to, m.cost)
		if !record.SameOutcome(m.from, m.to) {
			telling = append(telling, m.delivery)
		}
	}
	if err := followOutcomes(ctx, q, telling, changes); err != nil {
		return err
	}
	for message, change := range changes {
		if err := addFigures(ctx, q, message, *change); err != nil {
			return err
		}
	}
	_, err := q.EndMessages(ctx, query.EndMessagesParams{Now: now, Ids: idsText(slices.Collect(maps.Keys(changes)))})
	return err
}

func of(changes map[int64]*record.Figures, message int64) *record.Figures {
	if changes[message] == nil {
		changes[message] = &record.Figures{}
	}
	return changes[message]
}

// followOutcomes works out anew what the recipients of some deliveries came to.
func followOutcomes(
	ctx context.Context, q *query.Queries, deliveries []int64, changes map[int64]*record.Figures,
) error {
	if len(deliveries) == 0 {
		return nil
	}
	rows, err := q.OutcomesOf(ctx, idsText(deliveries))
	if err != nil {
		return err
	}
	changed := map[record.Outcome][]int64{}
	var states []delivery.State
	for i, row := range rows {
		states = append(states, row.State)
		if i+1 < len(rows) && rows[i+1].ID == row.ID {
			continue
		}
		now := record.Of(states)
		if row.Answer > 0 { // however it came
			now = record.Answered
		}
		if now != row.Outcome {
			changed[now] = append(changed[now], row.ID)
			figures := of(changes, row.MessageID)
			figures.AddRecipients(row.Outcome, -1)
			figures.AddRecipients(now, 1)
		}
		states = states[:0]
	}
	for outcome, ids := range changed {
		if err := q.SetOutcome(ctx, query.SetOutcomeParams{Outcome: outcome, Ids: idsText(ids)}); err != nil {
			return err
		}
		if outcome != record.Reached && outcome != record.Answered {
			continue
		}
		if err := q.SetReachedAt(ctx, idsText(ids)); err != nil {
			return err
		}
	}
	return nil
}

// addFigures adds to the kept figures of a message.
func addFigures(ctx context.Context, q *query.Queries, message int64, f record.Figures) error {
	return q.PutFigures(ctx, query.PutFiguresParams{
		MessageID: message, Recipients: int64(f.Recipients), Reached: int64(f.Reached), Answered: int64(f.Answered),
		Waiting:    int64(f.Waiting),
		NotReached: int64(f.NotReached), Stopped: int64(f.Stopped), LeftOut: int64(f.LeftOut), Told: int64(f.Told),
		Deliveries: int64(f.Deliveries), Here: int64(f.Here), Undecided: int64(f.Undecided),
		EndedEarly:  int64(f.StoppedDeliveries),
		PlannedCost: f.Planned, SpentCost: f.Spent, SavedCost: f.Saved,
	})
}

func figuresOf(row query.MessagesRow) record.Figures {
	return record.Figures{
		Recipients: int(row.Recipients), Reached: int(row.Reached), Answered: int(row.Answered), Waiting: int(row.Waiting),
		NotReached: int(row.NotReached), Stopped: int(row.Stopped), LeftOut: int(row.LeftOut), Told: int(row.Told),
		Deliveries: int(row.Deliveries), Here: int(row.Here), Undecided: int(row.Undecided),
		StoppedDeliveries: int(row.EndedEarly),
		Planned:           row.PlannedCost, Spent: row.SpentCost, Saved: row.SavedCost,
	}
}
