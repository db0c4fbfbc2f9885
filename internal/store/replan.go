package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/replan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// lead is how long before a scheduled message leaves its plan is compared with the
// roster.
const lead = 2 * time.Minute

// lookPause is how long a plan that goes out is not compared again.
const lookPause = 10 * time.Second

// Looked is a message whose plan is to be compared with the roster.
type Looked struct {
	ID     int64
	State  MessageState // held, or sending
	Leaves time.Time
}

// ToLookAt lists the messages whose plans are to be compared with the roster: those
// that leave soon at a time of their own, and those that are going out while the roster
// changed.
func (s *Store) ToLookAt(ctx context.Context, now time.Time) ([]Looked, error) {
	rows, err := s.read().ToLookAt(ctx, query.ToLookAtParams{
		Horizon: millis(now.Add(lead)), Lead: lead.Milliseconds(), Before: millis(now.Add(-lookPause)),
	})
	list := make([]Looked, len(rows))
	for i, row := range rows {
		list[i] = Looked{row.ID, MessageState(row.State), at(row.LeavesAt)}
	}
	return list, err
}

// RosterRevision is that of the roster as it is.
func (s *Store) RosterRevision(ctx context.Context) (int64, error) {
	return s.read().RosterRevision(ctx)
}

// Planned are the recipients of a message as they were planned.
func (s *Store) Planned(ctx context.Context, id int64) ([]replan.Kept, error) {
	rows, err := s.read().PlannedFor(ctx, id)
	var list []replan.Kept
	for _, row := range rows {
		if len(list) == 0 || list[len(list)-1].ID != row.ID {
			list = append(list, replan.Kept{ID: row.ID, Person: roster.PersonID(row.PersonID.Int64), Name: row.Name})
		}
		k := &list[len(list)-1]
		k.Deliveries = append(k.Deliveries, replan.Delivery{
			ID: row.DeliveryID, Channel: row.Channel, Address: row.Address, Hash: hex.EncodeToString(row.Hash),
			Here: row.State.Here() && row.LeasedBy == 0,
		})
	}
	return list, err
}

// Changed is what changed since a message was checked.
type Changed struct {
	At     time.Time       `json:"at"`
	Waits  bool            `json:"waits"`            // it was more than goes without a yes, or it failed
	Failed bool            `json:"failed,omitempty"` // it could not be compared
	List   []replan.Change `json:"list"`             // some of it
	All    int             `json:"all"`              // people
}

// Changes are what changed since a message was checked; nil is nothing.
func (s *Store) Changes(ctx context.Context, id int64) (*Changed, error) {
	text, err := s.read().ChangesOf(ctx, id)
	if err != nil || text == "" {
		return nil, found(err)
	}
	var c Changed
	if err := json.Unmarshal([]byte(text), &c); err != nil {
		return nil, fmt.Errorf("reading what changed in message %d: %w", id, err)
	}
	return &c, nil
}

// mostKept is how many changes are kept to be shown.
const mostKept = 200

func changesText(c *Changed) (string, error) {
	if c == nil {
		return "", nil
	}
	c.List = c.List[:min(len(c.List), mostKept)]
	text, err := json.Marshal(c)
	return string(text), err
}

// LookedAt keeps that the plan of a message was compared with a revision of the roster,
// and what was found. One that waits leaves when somebody says yes.
func (s *Store) LookedAt(ctx context.Context, m Looked, revision int64, c *Changed, now time.Time) error {
	text, err := changesText(c)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error { return lookedAt(ctx, q, m, revision, c, text, now) })
}

func lookedAt(
	ctx context.Context, q *query.Queries, m Looked, revision int64, c *Changed, text string, now time.Time,
) error {
	n, err := q.LookedAt(ctx, query.LookedAtParams{
		ID: m.ID, State: string(m.State), Now: millis(now), PlannedFor: revision, Waits: c != nil && c.Waits, Changes: text,
	})
	if err == nil && n == 0 {
		err = ErrConflict // it was stopped, or left
	}
	return err
}

// Replan gives a held message the plan of now where that is different, and keeps what
// was. Nobody of it has left.
func (s *Store) Replan(
	ctx context.Context, m Looked, revision int64, r *roster.Roster, p *plan.Plan, changes replan.Changes, c *Changed,
	now time.Time,
) error {
	text, err := changesText(c)
	if err != nil {
		return err
	}
	atOnce := p.AtOnce(r)
	return s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		if err := lookedAt(ctx, q, m, revision, c, text, now); err != nil {
			return err
		}
		was, err := q.Message(ctx, m.ID)
		if err != nil {
			return err
		}
		figures := record.Figures{
			LeftOut: len(p.LeftOut) - int(was.LeftOut), Told: len(p.Told) - int(was.Told),
		}
		if err := dropPlanned(ctx, q, m.ID, changes, &figures); err != nil {
			return err
		}
		if err := addPlanned(ctx, q, tx, m.ID, r, p, changes, &figures, now); err != nil {
			return err
		}
		if _, err := q.ClearLeftOut(ctx, query.ClearLeftOutParams{MessageID: m.ID, Most: 1 << 40}); err != nil {
			return err
		}
		if err := insert(ctx, tx, leftOutTable, leftOutRows(m.ID, r, p)); err != nil {
			return err
		}
		return errors.Join(addFigures(ctx, q, m.ID, figures), setAtOnce(ctx, q, m.ID, atOnce))
	})
}

// dropPlanned takes those out who changed, and what was for them alone.
func dropPlanned(
	ctx context.Context, q *query.Queries, message int64, changes replan.Changes, figures *record.Figures,
) error {
	var gone []int64
	for _, c := range changes {
		if c.Kept != 0 {
			gone = append(gone, c.Kept)
		}
	}
	if err := q.DropRecipients(ctx, idsText(gone)); err != nil {
		return err
	}
	lonely, err := q.LonelyDeliveries(ctx, message)
	if err != nil {
		return err
	}
	ids := make([]int64, len(lonely))
	for i, d := range lonely {
		ids[i] = d.ID
		figures.DropDelivery(delivery.Queued, d.Cost)
	}
	figures.AddRecipients(record.Waiting, -len(gone))
	return q.DropDeliveries(ctx, idsText(ids))
}

// addPlanned adds those who changed as they are in the plan of now.
func addPlanned(
	ctx context.Context, q *query.Queries, tx *sql.Tx, message int64, r *roster.Roster, p *plan.Plan,
	changes replan.Changes, figures *record.Figures, now time.Time,
) error {
	last, err := q.LastIDs(ctx)
	if err != nil {
		return err
	}
	ids := make([]int64, len(p.Recipients)) // of those who are added
	var rows [][]any
	var deliveries []plan.Delivery
	seen := map[int]bool{}
	for _, c := range changes {
		if c.Now < 0 {
			continue
		}
		row, err := recipientRow(message, r, p, p.Recipients[c.Now])
		if err != nil {
			return err
		}
		ids[c.Now] = last.Recipient + int64(len(rows)) + 1
		row[0] = ids[c.Now]
		rows = append(rows, row)
		for _, n := range p.Recipients[c.Now].Deliveries {
			if !seen[n] {
				seen[n] = true
				deliveries = append(deliveries, p.Deliveries[n])
			}
		}
	}
	if err := insert(ctx, tx, recipientsTable, rows); err != nil {
		return err
	}
	prepared, err := prepare(p, deliveries, ids)
	if err != nil {
		return err
	}
	for i := range prepared {
		prepared[i].recipients = slices.DeleteFunc(prepared[i].recipients, func(id int64) bool { return id == 0 })
		figures.AddDelivery(delivery.Queued, prepared[i].Cost)
	}
	figures.AddRecipients(record.Waiting, len(rows))
	known, err := knownContents(ctx, q, message, prepared)
	if err != nil {
		return err
	}
	return addDeliveries(ctx, q, tx, message, prepared, known, now)
}

// Withdraw stops deliveries of a message that must not leave any more; list are those
// of recipients. A delivery that others share leaves for them alone.
func (s *Store) Withdraw(
	ctx context.Context, m Looked, revision int64, list map[int64][]int64, now time.Time,
) error {
	var all []int64
	for _, deliveries := range list {
		all = append(all, deliveries...)
	}
	return s.write(ctx, func(q *query.Queries) error {
		if err := lookedAt(ctx, q, m, revision, nil, "", now); err != nil || len(all) == 0 {
			return err
		}
		rows, err := q.DeliveriesNow(ctx, idsText(all))
		if err != nil {
			return err
		}
		shared, err := q.SharedBy(ctx, idsText(all))
		if err != nil {
			return err
		}
		others := stillFor(shared, list)
		var stopped []int64
		var moves []move
		for _, row := range rows {
			if !row.State.Here() || row.LeasedBy != 0 {
				continue
			}
			if others[row.ID] {
				if row.ID, err = part(ctx, q, row.ID, shared, list, now); err != nil {
					return err
				}
				row.Cost = 0
				f := record.Figures{}
				f.AddDelivery(row.State, 0)
				if err := addFigures(ctx, q, row.MessageID, f); err != nil {
					return err
				}
			}
			stopped = append(stopped, row.ID)
			moves = append(moves, move{row.ID, row.MessageID, row.State, delivery.Stopped, row.Cost})
		}
		return errors.Join(setStopped(ctx, q, stopped, withdrawnDetail, now), follow(ctx, q, moves, millis(now)))
	})
}

// stillFor are the deliveries that somebody else still gets.
func stillFor(shared []query.DeliveryRecipient, list map[int64][]int64) map[int64]bool {
	others := map[int64]bool{}
	for _, link := range shared {
		others[link.DeliveryID] = others[link.DeliveryID] || !slices.Contains(list[link.RecipientID], link.DeliveryID)
	}
	return others
}

// part gives those of a delivery who are not to get it one of their own, which costs
// nothing, so that what becomes of the shared one says nothing of them.
func part(
	ctx context.Context, q *query.Queries, id int64, shared []query.DeliveryRecipient, list map[int64][]int64,
	now time.Time,
) (int64, error) {
	own, err := q.PartDelivery(ctx, query.PartDeliveryParams{ID: id, Key: rand.Text(), Now: millis(now)})
	if err != nil {
		return 0, err
	}
	for _, link := range shared {
		if link.DeliveryID != id || !slices.Contains(list[link.RecipientID], id) {
			continue
		}
		err := q.MoveLink(ctx, query.MoveLinkParams{ToDelivery: own, FromDelivery: id, RecipientID: link.RecipientID})
		if err != nil {
			return 0, err
		}
	}
	return own, nil
}

const withdrawnDetail = "taken out before it left: they are no longer to get it"
