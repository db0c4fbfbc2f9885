package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// chunk is how many rows of a plan are written, or cleared, in one transaction:
// others never wait for more.
const chunk = 1000

// partsVersion is the form of the JSON of contents' parts.
const partsVersion = 1

// Senders are the accounts that let a message go: who sent it, and who said
// yes to that, or 0.
type Senders struct{ Sender, Assenter int64 }

// Hold keeps the plan of a draft and puts the message on hold until leaves. The
// plan is written in chunks while the message is still a draft, and counts from
// the change of the message's state on; what is there of it when that does not
// come to pass is cleared, at the latest when the program starts again.
func (s *Store) Hold(
	ctx context.Context, id, revision int64, by Senders, r *roster.Roster, p *plan.Plan, now, leaves time.Time,
) (err error) {
	defer s.sent.Add(1)
	if _, busy := s.writing.LoadOrStore(id, true); busy {
		return ErrConflict
	}
	defer s.writing.Delete(id)
	if err := s.isDraft(ctx, id, revision); err != nil {
		return err
	}
	if err := s.clearPlan(ctx, id); err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, s.clearPlan(context.WithoutCancel(ctx), id))
		}
	}()
	atOnce := p.AtOnce(r)
	figures, err := s.writePlan(ctx, id, r, p, now)
	if errors.Is(err, ErrInUse) { // the draft was deleted meanwhile
		return ErrConflict
	}
	if err != nil {
		return err
	}
	return s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		n, err := q.HoldMessage(ctx, query.HoldMessageParams{
			ID: id, Revision: revision, SentBy: nullID(by.Sender), YesBy: nullID(by.Assenter), SentAt: millis(now),
			LeavesAt:  millis(leaves),
			Scheduled: leaves.After(p.Settings.Leaves), ExpiresAt: millisOf(p.Draft.Until), Currency: p.Settings.Currency,
			Job: int64(p.Draft.Question.For()),
		})
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		if _, err := q.StopAwaiting(ctx, id); err != nil {
			return err
		}
		if err := keepSending(ctx, q, id, p.Settings); err != nil {
			return err
		}
		unit := p.Draft.Audience.Writing(r, p.Settings.Reach)
		if err := keepFacts(ctx, q, id, p.Draft.Audience, channelsOf(p.Deliveries), unit); err != nil {
			return err
		}
		return errors.Join(keepWords(ctx, q, tx, id, p.Draft), addFigures(ctx, q, id, figures), setAtOnce(ctx, q, id, atOnce),
			q.SetMovesOn(ctx, query.SetMovesOnParams{ID: id, MovesOn: flag(movesOn(p))}))
	})
}

func setAtOnce(ctx context.Context, q *query.Queries, message int64, t plan.Total) error {
	return q.SetAtOnce(ctx, query.SetAtOnceParams{MessageID: message, Deliveries: int64(t.Deliveries), Cost: t.Cost})
}

// AtOnce is what a message would have come to with every channel at once. It is nothing
// for a message that was sent before that was kept.
func (s *Store) AtOnce(ctx context.Context, message int64) (plan.Total, error) {
	row, err := s.read().AtOnce(ctx, message)
	if errors.Is(err, sql.ErrNoRows) {
		return plan.Total{}, nil
	}
	return plan.Total{Deliveries: int(row.AtOnce), Cost: row.AtOnceCost}, err
}

func (s *Store) isDraft(ctx context.Context, id, revision int64) error {
	m, err := s.Heading(ctx, id)
	if err == nil && (m.State != Draft || m.Revision != revision) {
		err = ErrConflict
	}
	return err
}

// movesOn reports whether recipients may be tried on further steps.
func movesOn(p *plan.Plan) bool { return p.Draft.MoveOn != message.MoveOn{} && len(p.Steps) > 1 }

func flag(on bool) int64 {
	if on {
		return 1
	}
	return 0
}

// writePlan writes the rows of a plan and returns the figures that they come to.
func (s *Store) writePlan(
	ctx context.Context, id int64, r *roster.Roster, p *plan.Plan, now time.Time,
) (record.Figures, error) {
	figures := record.Figures{LeftOut: len(p.LeftOut), Told: len(p.Told)}
	figures.AddRecipients(record.Waiting, len(p.Recipients))
	recipients, err := s.writeRecipients(ctx, id, r, p)
	if err != nil {
		return figures, fmt.Errorf("keeping recipients: %w", err)
	}
	if err := s.writeLeftOut(ctx, id, r, p); err != nil {
		return figures, fmt.Errorf("keeping who is left out: %w", err)
	}
	known := map[[sha256.Size]byte]int64{}
	for some := range slices.Chunk(p.Deliveries, chunk) {
		prepared, err := prepare(p, some, recipients)
		if err != nil {
			return figures, err
		}
		err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
			return addDeliveries(ctx, q, tx, id, prepared, known, now)
		})
		if err != nil {
			return figures, fmt.Errorf("keeping deliveries: %w", err)
		}
		for _, d := range some {
			figures.AddDelivery(delivery.Queued, d.Cost)
		}
	}
	return figures, nil
}

// writeRecipients returns the identifiers of the plan's recipients, in their order.
func (s *Store) writeRecipients(ctx context.Context, id int64, r *roster.Roster, p *plan.Plan) ([]int64, error) {
	ids := make([]int64, 0, len(p.Recipients))
	for some := range slices.Chunk(p.Recipients, chunk) {
		rows := make([][]any, len(some))
		for i, rec := range some {
			row, err := recipientRow(id, r, p, rec)
			if err != nil {
				return nil, err
			}
			rows[i] = row
		}
		err := s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
			last, err := q.LastIDs(ctx)
			for i := range rows {
				rows[i][0] = last.Recipient + int64(i) + 1
			}
			return errors.Join(err, insert(ctx, tx, recipientsTable, rows))
		})
		if err != nil {
			return nil, err
		}
		for _, row := range rows {
			ids = append(ids, row[0].(int64))
		}
	}
	return ids, nil
}

// asideText is JSON, or "" when no address was put aside.
func asideText(list []plan.Aside) (string, error) {
	if len(list) == 0 {
		return "", nil
	}
	text, err := json.Marshal(list)
	return string(text), err
}

const (
	recipientsTable = "recipients (id, message_id, person_id, name, language, copy, step, why, outcome, aside)"
	leftOutTable    = "left_out (message_id, person_id, name, reason, detail)"
)

// recipientRow is a recipient's row, without its identifier.
func recipientRow(message int64, r *roster.Roster, p *plan.Plan, rec plan.Recipient) ([]any, error) {
	person := r.At(rec.Person)
	aside, err := asideText(p.Aside(r, rec))
	return []any{
		nil, message, personID(person), person.Name(), person.Language, rec.Copy, rec.Step, p.Explain(r, rec),
		record.Waiting, aside,
	}, err
}

func (s *Store) writeLeftOut(ctx context.Context, id int64, r *roster.Roster, p *plan.Plan) error {
	for some := range slices.Chunk(leftOutRows(id, r, p), chunk) {
		err := s.writeRows(ctx, func(_ *query.Queries, tx *sql.Tx) error { return insert(ctx, tx, leftOutTable, some) })
		if err != nil {
			return err
		}
	}
	return nil
}

// leftOutRows are those of everybody who gets nothing, and of the dependents who are told.
func leftOutRows(id int64, r *roster.Roster, p *plan.Plan) [][]any {
	rows := make([][]any, 0, len(p.LeftOut)+len(p.Told))
	add := func(at int, reason plan.Reason, detail string) {
		person := r.At(at)
		rows = append(rows, []any{id, personID(person), person.Name(), string(reason), detail})
	}
	for _, l := range p.LeftOut {
		add(l.Person, l.Reason, p.Detail(r, l))
	}
	for _, t := range p.Told {
		add(t.Person, plan.GuardiansTold, p.Through(r, t))
	}
	return rows
}

// prepared is a delivery that is about to be written, with what it says.
type prepared struct {
	plan.Delivery
	hash       [sha256.Size]byte
	content    delivery.Content
	recipients []int64 // by identifier
}

// prepare makes the contents of deliveries. Recipients are the identifiers of the
// plan's recipients, or nil when the deliveries count for nobody.
func prepare(p *plan.Plan, some []plan.Delivery, recipients []int64) ([]prepared, error) {
	list := make([]prepared, len(some))
	for i, d := range some {
		content := p.Content(d)
		hash, err := content.Hash()
		if err != nil {
			return nil, err
		}
		list[i] = prepared{Delivery: d, hash: hash, content: content}
		if recipients == nil {
			continue
		}
		for _, at := range d.Recipients {
			list[i].recipients = append(list[i].recipients, recipients[at])
		}
	}
	return list, nil
}

// addDeliveries writes deliveries of a message and those of their contents that are
// not in known, by hash, to which it adds them.
func addDeliveries(
	ctx context.Context, q *query.Queries, tx *sql.Tx, message int64, list []prepared, known map[[sha256.Size]byte]int64,
	now time.Time,
) error {
	last, err := q.LastIDs(ctx)
	if err != nil {
		return err
	}
	var contents, deliveries, links [][]any
	for _, d := range list {
		content, ok := known[d.hash]
		if !ok {
			parts, err := json.Marshal(d.content.Parts)
			if err != nil {
				return err
			}
			content = last.Content + int64(len(contents)) + 1
			c := d.content
			contents = append(contents, []any{
				content, message, d.hash[:], c.Channel, c.Language, c.Subject, c.Body, c.HTML, c.Link, partsVersion, string(parts),
			})
			known[d.hash] = content
		}
		id := last.Delivery + int64(len(deliveries)) + 1
		deliveries = append(deliveries, []any{
			id, message, content, d.Channel, d.Address, d.Sender, d.Step, d.Count.Parts, d.Seconds, int64(d.Cost), rand.Text(),
			delivery.Queued,
			millis(d.At), millis(d.At), millis(now),
		})
		for _, recipient := range d.recipients {
			links = append(links, []any{id, recipient})
		}
	}
	err = insert(
		ctx, tx, "contents (id, message_id, hash, channel, language, subject, body, html, link, version, parts)", contents,
	)
	if err != nil {
		return err
	}
	err = insert(ctx, tx, `deliveries (id, message_id, content_id, channel, address, sender, step, parts, seconds, cost, key, state,
		queued_at, due_at, updated_at)`, deliveries)
	if err != nil {
		return err
	}
	return insert(ctx, tx, "delivery_recipients (delivery_id, recipient_id)", links)
}

// rowsAtOnce is how many rows one INSERT holds.
const rowsAtOnce = 50

// insert adds rows to a table, named with its columns.
func insert(ctx context.Context, tx *sql.Tx, into string, rows [][]any) error {
	if len(rows) == 0 {
		return nil
	}
	row := "(" + strings.TrimSuffix(strings.Repeat("?,", len(rows[0])), ",") + ")"
	statement := func(n int) string {
		return "INSERT INTO " + into + " VALUES " + strings.TrimSuffix(strings.Repeat(row+",", n), ",")
	}
	full, err := tx.PrepareContext(ctx, statement(min(rowsAtOnce, len(rows))))
	if err != nil {
		return err
	}
	defer full.Close() //nolint:errcheck // it ends with the transaction
	for some := range slices.Chunk(rows, rowsAtOnce) {
		values := slices.Concat(some...)
		if len(some) == min(rowsAtOnce, len(rows)) {
			_, err = full.ExecContext(ctx, values...)
		} else {
			_, err = tx.ExecContext(ctx, statement(len(some)), values...)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// SendTrial queues what a sender tries on themselves. It counts for nobody and
// stands in no list of messages.
func (s *Store) SendTrial(
	ctx context.Context, account int64, p *plan.Plan, deliveries []plan.Delivery, now time.Time,
) (id int64, err error) {
	draft, err := draftForm.write(p.Draft)
	if err != nil {
		return 0, err
	}
	list, err := prepare(p, deliveries, nil)
	if err != nil {
		return 0, err
	}
	var figures record.Figures
	for _, d := range deliveries {
		figures.AddDelivery(delivery.Queued, d.Cost)
	}
	err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		err := q.AddTrial(ctx, query.AddTrialParams{
			ID: id, AccountID: account, Title: p.Draft.Title(), Urgency: p.Draft.Urgency, Draft: draft, Now: millis(now),
		})
		if err != nil {
			return err
		}
		if err := addDeliveries(ctx, q, tx, id, list, map[[sha256.Size]byte]int64{}, now); err != nil {
			return fmt.Errorf("keeping a trial's deliveries: %w", err)
		}
		return addFigures(ctx, q, id, figures)
	})
	return id, err
}

// personID is how a recipient refers to the roster; a stranger does not.
func personID(p *roster.Person) sql.NullInt64 { return nullID(max(0, int64(p.ID))) }

// clearPlan removes what is kept of the plan of a draft, some rows at a time.
func (s *Store) clearPlan(ctx context.Context, id int64) error {
	for {
		var cleared int64
		err := s.write(ctx, func(q *query.Queries) (err error) {
			cleared, err = clearSome(ctx, q, id)
			return err
		})
		if err != nil || cleared == 0 {
			return err
		}
	}
}

// clearUnfinished clears what an earlier process left of the plan of a draft, unless
// this one is just writing it.
func (s *Store) clearUnfinished(ctx context.Context, id int64) error {
	if _, busy := s.writing.LoadOrStore(id, true); busy {
		return nil
	}
	defer s.writing.Delete(id)
	m, err := s.Heading(ctx, id)
	if err != nil || m.State != Draft {
		return err
	}
	return s.clearPlan(ctx, id)
}

// clearSome removes rows of one kind, those first that refer to others.
func clearSome(ctx context.Context, q *query.Queries, id int64) (cleared int64, err error) {
	if cleared, err = q.ClearDeliveries(ctx, query.ClearDeliveriesParams{
		MessageID: id, Most: chunk,
	}); err != nil || cleared > 0 {
		return cleared, err
	}
	if cleared, err = q.ClearRecipients(ctx, query.ClearRecipientsParams{
		MessageID: id, Most: chunk,
	}); err != nil || cleared > 0 {
		return cleared, err
	}
	if cleared, err = q.ClearLeftOut(ctx, query.ClearLeftOutParams{
		MessageID: id, Most: chunk,
	}); err != nil || cleared > 0 {
		return cleared, err
	}
	if cleared, err = q.ClearContents(ctx, query.ClearContentsParams{
		MessageID: id, Most: chunk,
	}); err != nil || cleared > 0 {
		return cleared, err
	}
	return 0, errors.Join(q.ClearFigures(ctx, id), q.ClearSending(ctx, id), q.DropFacts(ctx, id))
}
