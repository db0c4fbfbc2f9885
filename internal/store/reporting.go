package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// counted are the messages that a report counts, each with its month.
const counted = `WITH months (key, a, b) AS MATERIALIZED (
	SELECT json_extract(value, '$[0]'), json_extract(value, '$[1]'), json_extract(value, '$[2]') FROM json_each(?)
), found AS MATERIALIZED (
	SELECT m.id, m.leaves_at, coalesce(m.sent_by, m.account_id) AS sender, m.account_id, m.urgency, m.currency,
		coalesce((SELECT k.key FROM months k WHERE m.leaves_at >= k.a AND m.leaves_at < k.b), '') AS month
	FROM messages m
	WHERE m.state IN ('sending', 'sent', 'stopped') AND `

// rows says how messages are put into the rows of a report.
type rows struct {
	key  string // of the row
	join string // what the key is read from
}

var rowsBy = map[report.By]rows{
	report.Once:      {`''`, ``},
	report.ByMonth:   {`m.month`, ``},
	report.BySender:  {`m.sender`, ``},
	report.ByUnit:    {`coalesce(x.value, '')`, `LEFT JOIN message_facts x ON x.message_id = m.id AND x.kind = 'unit'`},
	report.ByGroup:   {`coalesce(x.value, '')`, `LEFT JOIN message_facts x ON x.message_id = m.id AND x.kind = 'group'`},
	report.ByUrgency: {`m.urgency`, ``},
}

// The figures of each row, and how long it took, by what is counted in it.
const (
	ofMessages = `count(*), sum(f.recipients), sum(f.reached), sum(f.waiting), sum(f.not_reached), sum(f.stopped),
		sum(f.left_out), sum(f.spent_cost) FROM found m %s JOIN figures f ON f.message_id = m.id`
	ofRecipients = `count(DISTINCT m.id), count(*), sum(r.outcome IN ('reached', 'answered')), sum(r.outcome = 'waiting'),
		sum(r.outcome = 'not-reached'), sum(r.outcome = 'stopped'), 0, 0
		FROM found m JOIN recipients r ON r.message_id = m.id`
	ofDeliveries = `count(DISTINCT m.id), count(*), sum(d.state IN ('arrived', 'opened', 'answered')),
		sum(d.state IN ('queued', 'retrying', 'undecided', 'carrier')), sum(d.state IN ('failed', 'expired')),
		sum(d.state = 'stopped'), 0, sum(CASE WHEN d.state IN ('queued', 'retrying', 'stopped') THEN 0 ELSE d.cost END)
		FROM found m JOIN deliveries d ON d.message_id = m.id`

	untilReached = `(r.reached_at - m.leaves_at) / 1000, count(*) FROM found m %s
		JOIN recipients r ON r.message_id = m.id WHERE r.reached_at > 0`
	untilArrived = `(d.arrived_at - max(d.queued_at, m.leaves_at)) / 1000, count(*) FROM found m
		JOIN deliveries d ON d.message_id = m.id WHERE d.arrived_at > 0`
)

// statements are those that count by something: figures, and how long it took.
func statements(by report.By) (figures, delays string) {
	switch by {
	case report.ByLanguage:
		return `r.copy, m.currency, ` + ofRecipients, `r.copy, ` + fmt.Sprintf(untilReached, ``)
	case report.ByChannel, report.ByCarrier:
		return `d.` + string(by) + `, m.currency, ` + ofDeliveries, `d.` + string(by) + `, ` + untilArrived
	}
	r := rowsBy[by]
	return r.key + `, m.currency, ` + fmt.Sprintf(ofMessages, r.join), r.key + `, ` + fmt.Sprintf(untilReached, r.join)
}

// Count counts the messages that are looked for by something, in months of which the
// search has all or some; timed is with how long it took. Rows are in the order of their
// keys.
func (s *Store) Count(
	ctx context.Context, w Sought, by report.By, months []report.Month, timed bool,
) ([]report.Counted, error) {
	where, values := w.where()
	from := counted + where + `) SELECT `
	values = append([]any{monthsText(months, w.Zone)}, values...)
	figures, delays := statements(by)
	list, err := s.countFigures(ctx, from+figures+` GROUP BY 1, 2 ORDER BY 1`, values)
	if err != nil {
		return nil, fmt.Errorf("counting messages by %s: %w", by, err)
	}
	if !timed {
		return list, nil
	}
	found, err := s.reader.QueryContext(ctx, from+delays+` GROUP BY 1, 2 ORDER BY 1`, values...)
	if err != nil {
		return nil, fmt.Errorf("counting how long messages took by %s: %w", by, err)
	}
	defer found.Close() //nolint:errcheck // Err tells
	at := 0
	for found.Next() {
		var key string
		var seconds, n int64
		if err := found.Scan(&key, &seconds, &n); err != nil {
			return nil, err
		}
		for at < len(list) && list[at].Key != key {
			at++
		}
		if at == len(list) {
			break
		}
		list[at].Delays = append(list[at].Delays, report.Delay{
			After: time.Duration(max(0, seconds)) * time.Second, Count: int(n),
		})
	}
	return list, found.Err()
}

func (s *Store) countFigures(ctx context.Context, statement string, values []any) ([]report.Counted, error) {
	found, err := s.reader.QueryContext(ctx, statement, values...)
	if err != nil {
		return nil, err
	}
	defer found.Close() //nolint:errcheck // Err tells
	var list []report.Counted
	for found.Next() {
		var key, currency string
		var f report.Figures
		var cost int64
		err := found.Scan(
			&key, &currency, &f.Messages, &f.All, &f.Reached, &f.Waiting, &f.Missed, &f.Stopped, &f.LeftOut, &cost,
		)
		if err != nil {
			return nil, err
		}
		f.Costs = map[string]money.Amount{currency: money.Amount(cost)}
		if len(list) == 0 || list[len(list)-1].Key != key {
			list = append(list, report.Counted{Key: key})
		}
		list[len(list)-1].Add(f)
	}
	return list, found.Err()
}

// monthsText are months as JSON: each its key, and from when until when it is.
func monthsText(months []report.Month, zone *time.Location) string {
	list := make([][3]any, len(months))
	for i, m := range months {
		from, _ := time.ParseInLocation(time.DateOnly, string(m.From), zone)
		last, _ := time.ParseInLocation(time.DateOnly, string(m.Until), zone)
		list[i] = [3]any{m.Key, millis(from), millis(time.Date(last.Year(), last.Month(), last.Day()+1, 0, 0, 0, 0, zone))}
	}
	text, err := json.Marshal(list)
	if err != nil { // words and numbers can always be written
		text = []byte(`[]`)
	}
	return string(text)
}

// AuthorSpent is what the messages of an author cost in a month.
type AuthorSpent struct {
	Author int64
	Month  string
	Costs  map[string]money.Amount
}

// SpentByAuthor is what the messages that are looked for cost, by author and month.
func (s *Store) SpentByAuthor(ctx context.Context, w Sought, months []report.Month) ([]AuthorSpent, error) {
	where, values := w.where()
	found, err := s.reader.QueryContext(ctx, counted+where+`) SELECT m.account_id, m.month, m.currency, sum(f.spent_cost) FROM found m
		JOIN figures f ON f.message_id = m.id GROUP BY 1, 2, 3 ORDER BY 1, 2`, append([]any{monthsText(months, w.Zone)}, values...)...)
	if err != nil {
		return nil, fmt.Errorf("adding up what was spent: %w", err)
	}
	defer found.Close() //nolint:errcheck // Err tells
	var list []AuthorSpent
	for found.Next() {
		var a AuthorSpent
		var currency string
		var cost int64
		if err := found.Scan(&a.Author, &a.Month, &currency, &cost); err != nil {
			return nil, err
		}
		if n := len(list) - 1; n >= 0 && list[n].Author == a.Author && list[n].Month == a.Month {
			list[n].Costs[currency] += money.Amount(cost)
			continue
		}
		a.Costs = map[string]money.Amount{currency: money.Amount(cost)}
		list = append(list, a)
	}
	return list, found.Err()
}

// EachRecipient calls with each recipient of the messages that are looked for, message
// by message; person is 0 of somebody who is not on the roster.
func (s *Store) EachRecipient(ctx context.Context, w Sought, each func(message int64, person roster.PersonID)) error {
	where, values := w.where()
	found, err := s.reader.QueryContext(ctx, counted+where+`) SELECT m.id, r.person_id FROM found m
		JOIN recipients r ON r.message_id = m.id ORDER BY m.id`, append([]any{`[]`}, values...)...)
	if err != nil {
		return fmt.Errorf("reading recipients: %w", err)
	}
	defer found.Close() //nolint:errcheck // Err tells
	for found.Next() {
		var message int64
		var person sql.NullInt64
		if err := found.Scan(&message, &person); err != nil {
			return err
		}
		each(message, roster.PersonID(person.Int64))
	}
	return found.Err()
}

// KeepGaps keeps how many people of each unit had which gap on a day, unless that is
// known; it says whether it was not.
func (s *Store) KeepGaps(
	ctx context.Context, day roster.Date, counts map[roster.UnitID]map[string]int,
) error {
	return s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
		if known, err := q.GapsKnown(ctx, string(day)); err != nil || known > 0 {
			return err
		}
		var rows [][]any
		for unit, list := range counts {
			for gap, people := range list {
				rows = append(rows, []any{day, unit, gap, people})
			}
		}
		return insert(ctx, tx, "gap_days (day, unit_id, gap, people)", rows)
	})
}

// GapsCounted reports whether gaps were counted on a day.
func (s *Store) GapsCounted(ctx context.Context, day roster.Date) (bool, error) {
	n, err := s.read().GapsKnown(ctx, string(day))
	return n > 0, err
}

// GapDays are the counts of gaps on days between two, of some units; nil is of all.
func (s *Store) GapDays(ctx context.Context, from, until roster.Date, units []roster.UnitID) ([]report.GapDay, error) {
	rows, err := s.read().GapDays(ctx, query.GapDaysParams{
		FromDay: string(from), UntilDay: string(until), EveryUnit: flag(units == nil), Units: idsText(units),
	})
	var list []report.GapDay
	for _, row := range rows {
		if len(list) == 0 || string(list[len(list)-1].Day) != row.Day {
			list = append(list, report.GapDay{Day: roster.Date(row.Day), Count: map[string]int{}})
		}
		list[len(list)-1].Count[row.Gap] = int(row.People)
	}
	return list, err
}

var askForm = form{name: "a report"}

// KeptReport is a report with a name, and the accounts to which it is mailed.
type KeptReport struct {
	ID      int64
	Owner   int64
	Name    string
	Ask     report.Ask
	Readers []int64
}

// KeepReport keeps a report for an account, over one of theirs with the same name.
// Readers are mailed from the next month on.
func (s *Store) KeepReport(ctx context.Context, k KeptReport, month string) (id int64, err error) {
	text, err := askForm.write(k.Ask)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		id, err = q.KeepReport(ctx, query.KeepReportParams{AccountID: nullID(k.Owner), Name: k.Name, Ask: text})
		if err != nil {
			return err
		}
		if err := q.KeepReaders(ctx, query.KeepReadersParams{ReportID: id, Ids: idsText(k.Readers)}); err != nil {
			return err
		}
		for _, account := range k.Readers {
			err := q.AddReader(ctx, query.AddReaderParams{ReportID: id, AccountID: account, Month: month})
			if err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

// KeptReports lists the kept reports by name.
func (s *Store) KeptReports(ctx context.Context) ([]KeptReport, error) {
	rows, err := s.read().KeptReports(ctx)
	if err != nil {
		return nil, err
	}
	readers, err := s.read().ReportReaders(ctx)
	list := make([]KeptReport, len(rows))
	for i, row := range rows {
		list[i] = KeptReport{ID: row.ID, Owner: row.AccountID.Int64, Name: row.Name}
		if err := askForm.read(row.Ask, &list[i].Ask); err != nil {
			return nil, fmt.Errorf("reading the report %s: %w", row.Name, err)
		}
		for _, r := range readers {
			if r.ReportID == row.ID {
				list[i].Readers = append(list[i].Readers, r.AccountID)
			}
		}
	}
	return list, err
}

// DropReport forgets a kept report.
func (s *Store) DropReport(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropReport(ctx, id)) })
}

// Due is somebody to whom a report is to be mailed.
type Due struct{ Report, Account int64 }

// ReportsDue lists who has not got their reports of a month.
func (s *Store) ReportsDue(ctx context.Context, month string) ([]Due, error) {
	rows, err := s.read().ReportsDue(ctx, month)
	list := make([]Due, len(rows))
	for i, row := range rows {
		list[i] = Due{row.ReportID, row.AccountID}
	}
	return list, err
}

// ReportMailed keeps that somebody got a report of a month.
func (s *Store) ReportMailed(ctx context.Context, d Due, month string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.ReportMailed(ctx, query.ReportMailedParams{ReportID: d.Report, AccountID: d.Account, Month: month})
	})
}
