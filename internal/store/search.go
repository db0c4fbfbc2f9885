package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/store/query"
)

// Sought is a search with what it means by now.
type Sought struct {
	seek.Search
	Accounts []int64 // whose messages may be seen
	Zone     *time.Location
	Now      time.Time
	Groups   func(id int64) []roster.GroupID // a group and those that it is nested in
	Units    func(id int64) []roster.UnitID  // a unit and those inside it
	First    int
	Count    int
}

// leftAt is when a message left, or is to leave; of a draft, when it was kept.
const leftAt = `CASE WHEN m.state = 'draft' THEN m.updated_at ELSE m.leaves_at END`

var orders = map[seek.Order]string{
	"":              `max(m.leaves_at, m.updated_at) DESC`,
	seek.Newest:     `max(m.leaves_at, m.updated_at) DESC`,
	seek.Oldest:     `max(m.leaves_at, m.updated_at)`,
	seek.ByTitle:    `m.title COLLATE NOCASE`,
	seek.Most:       `coalesce(f.recipients, 0) DESC`,
	seek.MostMissed: `coalesce(f.not_reached + f.left_out, 0) DESC`,
	seek.Dearest:    `coalesce(f.spent_cost, 0) DESC`,
}

// Search lists the messages that are looked for, and says how many there are in all.
func (s *Store) Search(ctx context.Context, w Sought) (list []Heading, all int, err error) {
	where, values := w.where()
	from := `messages m`
	if strings.Contains(orders[w.Order], "f.") {
		from += ` LEFT JOIN figures f ON f.message_id = m.id`
	}
	// How many there are is counted along, so that conditions are worked out once; without
	// any, an index counts by itself.
	counted := `count(*) OVER ()`
	if len(w.Conditions) == 0 {
		counted = `0`
		err := s.reader.QueryRowContext(ctx, `SELECT count(*) FROM messages m WHERE `+where, values...).Scan(&all)
		if err != nil {
			return nil, 0, fmt.Errorf("counting messages: %w", err)
		}
	}
	rows, err := s.reader.QueryContext(ctx, `SELECT m.id, `+counted+` FROM `+from+` WHERE `+where+
		` ORDER BY `+orders[w.Order]+`, m.id DESC LIMIT ? OFFSET ?`, append(values, w.Count, w.First)...)
	if err != nil {
		return nil, 0, fmt.Errorf("looking for messages: %w", err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var ids []int64
	for rows.Next() {
		var id int64
		var n int
		if err := rows.Scan(&id, &n); err != nil {
			return nil, 0, err
		}
		all = max(all, n)
		ids = append(ids, id)
	}
	if err := rows.Err(); err != nil {
		return nil, 0, err
	}
	list, err = s.Headings(ctx, ids)
	return list, all, err
}

// Headings are messages by their ids, in that order. One that is gone meanwhile is not
// among them.
func (s *Store) Headings(ctx context.Context, ids []int64) ([]Heading, error) {
	rows, err := s.read().HeadingsOf(ctx, idsText(ids))
	if err != nil {
		return nil, err
	}
	byID := make(map[int64]Heading, len(rows))
	for _, row := range rows {
		if byID[row.ID], err = headingOf(query.MessagesRow(row)); err != nil {
			return nil, err
		}
	}
	list := make([]Heading, 0, len(ids))
	for _, id := range ids {
		if m, there := byID[id]; there {
			list = append(list, m)
		}
	}
	return list, nil
}

// FoundIDs are all messages that are looked for, in their order.
func (s *Store) FoundIDs(ctx context.Context, w Sought) ([]int64, error) {
	where, values := w.where()
	rows, err := s.reader.QueryContext(ctx, `SELECT m.id FROM messages m LEFT JOIN figures f ON f.message_id = m.id WHERE `+where+
		` ORDER BY `+orders[w.Order]+`, m.id DESC`, values...)
	if err != nil {
		return nil, fmt.Errorf("looking for messages: %w", err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var ids []int64
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, rows.Err()
}

// where are the conditions as SQL, and the values in it.
func (w Sought) where() (string, []any) {
	parts := []string{`m.apart = 0`, `m.account_id IN (SELECT value FROM json_each(?))`}
	values := []any{idsText(w.Accounts)}
	for _, c := range w.Conditions {
		sql, more := w.condition(c)
		if c.Not {
			sql = `NOT (` + sql + `)`
		}
		parts, values = append(parts, sql), append(values, more...)
	}
	return strings.Join(parts, " AND "), values
}

// condition is one of them as SQL, and the values in it.
func (w Sought) condition(c seek.Clause) (string, []any) {
	switch c.On {
	case seek.OnWords:
		return `m.id IN (SELECT rowid FROM message_words WHERE message_words MATCH ?)`, []any{match(c.Value)}
	case seek.OnSender:
		return `coalesce(m.sent_by, m.account_id) = ?`, []any{c.ID}
	case seek.OnUnit:
		return belongs("unit", c, func() []string { return numbers(w.Units(c.ID)) })
	case seek.OnGroup:
		return belongs("group", c, func() []string { return numbers(w.Groups(c.ID)) })
	case seek.OnChannel:
		return facts("channel", []string{c.Value})
	case seek.OnLanguage:
		tag := c.Value
		if tag == seek.Original {
			tag = ""
		}
		return `EXISTS (SELECT 1 FROM recipients r WHERE r.message_id = m.id AND r.copy = ?)`, []any{tag}
	case seek.OnCarrier:
		return `EXISTS (SELECT 1 FROM deliveries d WHERE d.message_id = m.id AND d.carrier = ?)`, []any{c.Value}
	case seek.OnUrgency:
		return `m.urgency = ?`, []any{c.Value}
	case seek.OnState:
		return `m.state = ?`, []any{c.Value}
	case seek.OnPerson:
		return `m.id IN (SELECT r.message_id FROM recipients r WHERE r.person_id = ?)`, []any{c.ID}
	case seek.OnAddress:
		return `m.id IN (SELECT d.message_id FROM deliveries d WHERE d.address = ?)`, []any{c.Value}
	case seek.OnDays, seek.OnLast:
		return w.days(c)
	case seek.OnFollows:
		return `m.follows_as = ?`, []any{c.Value}
	case seek.OnMade:
		sql := `EXISTS (SELECT 1 FROM readings g WHERE g.request_id = m.id)`
		if c.Value == "hand" {
			sql = `NOT ` + sql
		}
		return sql, nil
	case seek.OnMissed:
		return `m.id IN (SELECT x.message_id FROM figures x WHERE x.not_reached + x.left_out > 0)`, nil
	}
	return `0`, nil
}

func (w Sought) days(c seek.Clause) (string, []any) {
	from, until := c.Span(w.Zone, w.Now)
	var parts []string
	var values []any
	if !from.IsZero() {
		parts, values = append(parts, leftAt+` >= ?`), append(values, millis(from))
	}
	if !until.IsZero() {
		parts, values = append(parts, leftAt+` < ?`), append(values, millis(until))
	}
	return `(` + strings.Join(parts, ` AND `) + `)`, values
}

// match is a query of FTS5: every word, be it the beginning of one.
func match(typed string) string {
	tokens := seek.Tokens(typed)
	for i, t := range tokens {
		tokens[i] = `"` + t + `"*`
	}
	return strings.Join(tokens, " ")
}

// belongs is a condition on a unit or a group.
func belongs(kind string, c seek.Clause, around func() []string) (string, []any) {
	switch c.Value {
	case seek.None:
		return `NOT EXISTS (SELECT 1 FROM message_facts x WHERE x.message_id = m.id AND x.kind = ?)`, []any{kind}
	case seek.Alone:
		return facts(kind, numbers([]int64{c.ID}))
	}
	return facts(kind, around())
}

func facts(kind string, of []string) (string, []any) {
	text, err := json.Marshal(of)
	if err != nil { // numbers and names of channels can always be written
		text = []byte(`[]`)
	}
	return `m.id IN (SELECT x.message_id FROM message_facts x WHERE x.kind = ? AND x.value IN (SELECT value FROM json_each(?)))`,
		[]any{kind, string(text)}
}

func numbers[ID ~int64](ids []ID) []string {
	list := make([]string, len(ids))
	for i, id := range ids {
		list[i] = strconv.FormatInt(int64(id), 10)
	}
	return list
}

var searchForm = form{name: "a search"}

// KeptSearch is a search with a name.
type KeptSearch struct {
	ID     int64
	Owner  int64 // the account that kept it
	Name   string
	Search seek.Search
}

// KeepSearch keeps a search for an account, over one with the same name.
func (s *Store) KeepSearch(ctx context.Context, account int64, name string, search seek.Search) (id int64, err error) {
	text, err := searchForm.write(search)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) (err error) {
		id, err = q.KeepSearch(ctx, query.KeepSearchParams{AccountID: nullID(account), Name: name, Search: text})
		return err
	})
	return id, err
}

// KeptSearches lists the searches by name.
func (s *Store) KeptSearches(ctx context.Context) ([]KeptSearch, error) {
	rows, err := s.read().KeptSearches(ctx)
	list := make([]KeptSearch, len(rows))
	for i, row := range rows {
		list[i] = KeptSearch{ID: row.ID, Owner: row.AccountID.Int64, Name: row.Name}
		if err := searchForm.read(row.Search, &list[i].Search); err != nil {
			return nil, fmt.Errorf("reading %s: %w", row.Name, err)
		}
	}
	return list, err
}

// DropSearch forgets a search.
func (s *Store) DropSearch(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropSearch(ctx, id)) })
}
