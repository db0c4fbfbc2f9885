package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Desks are those of the organisation, the oldest first.
func (s *Store) Desks(ctx context.Context) ([]desk.Desk, error) {
	q := s.read()
	rows, err := q.Desks(ctx)
	if err != nil {
		return nil, err
	}
	members, err := q.DeskMembers(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]desk.Desk, len(rows))
	for i, row := range rows {
		var d desk.Desk
		if err := json.Unmarshal([]byte(row.Settings), &d); err != nil {
			return nil, fmt.Errorf("reading desk %d: %w", row.ID, err)
		}
		d.ID, d.Name, d.Members = desk.ID(row.ID), row.Name, []int64{}
		d.Units, d.Groups = append([]roster.UnitID{}, d.Units...), append([]roster.GroupID{}, d.Groups...)
		d.Hours = append([]desk.Hours{}, d.Hours...)
		for _, m := range members {
			if m.DeskID == row.ID {
				d.Members = append(d.Members, m.AccountID)
			}
		}
		list[i] = d
	}
	return list, nil
}

// PutDesk adds a desk, whose number is 0, or changes one. Threads without a desk come to
// the first one that is made.
func (s *Store) PutDesk(ctx context.Context, d desk.Desk) (desk.ID, error) {
	settings, err := json.Marshal(d)
	if err != nil {
		return 0, err
	}
	id := int64(d.ID)
	err = s.write(ctx, func(q *query.Queries) (err error) {
		if d.ID == 0 {
			id, err = q.AddDesk(ctx, query.AddDeskParams{Name: d.Name, Settings: string(settings)})
		} else {
			err = one(q.SetDesk(ctx, query.SetDeskParams{ID: id, Name: d.Name, Settings: string(settings)}))
		}
		if err != nil {
			return err
		}
		if err := q.ClearDeskMembers(ctx, id); err != nil {
			return err
		}
		for _, account := range d.Members {
			if err := q.AddDeskMember(ctx, query.AddDeskMemberParams{DeskID: id, AccountID: account}); err != nil {
				return err
			}
		}
		return placeThreads(ctx, q, id)
	})
	return desk.ID(id), err
}

// placeThreads gives those threads to a desk that are at none.
func placeThreads(ctx context.Context, q *query.Queries, id int64) error {
	left, err := q.Unplaced(ctx)
	for _, thread := range left {
		err = errors.Join(err, q.PlaceThread(ctx, query.PlaceThreadParams{ID: thread, DeskID: nullID(id)}))
	}
	return err
}

// DropDesk removes a desk; its threads go to another one.
func (s *Store) DropDesk(ctx context.Context, id, into desk.ID) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := one(q.DropDesk(ctx, int64(id))); err != nil {
			return err
		}
		if into == 0 {
			return nil
		}
		return placeThreads(ctx, q, int64(into))
	})
}

// DeskThreads is how many threads a desk has.
func (s *Store) DeskThreads(ctx context.Context, id desk.ID) (int, error) {
	n, err := s.read().DeskThreads(ctx, nullID(int64(id)))
	return int(n), err
}

// EntryKind is what an entry of a thread is.
type EntryKind string

const (
	EntryIn        EntryKind = "in"
	EntryAutomatic EntryKind = "automatic" // nobody wrote it
	EntryOut       EntryKind = "out"
	EntryNote      EntryKind = "note" // never leaves
	EntryWord      EntryKind = "word" // a stop, a start, a call for help
)

// Copied is what was said in another language: what came in as the desk reads it, what
// leaves as they read it.
type Copied struct {
	Language string // BCP 47; "" for none
	Text     string
	Checked  bool // a person checked every line
}

// EntryKinds lists every kind.
var EntryKinds = []EntryKind{EntryIn, EntryAutomatic, EntryOut, EntryNote, EntryWord}

// Entry is one thing that was said in a thread.
type Entry struct {
	ID      int64
	Kind    EntryKind
	At      time.Time
	Channel roster.Channel
	Address string
	Name    string // of whoever said it
	Account int64
	Subject string
	Said    string
	Folded  string
	Copy    Copied
	Files   []attachment.File
	Dropped []string
	Source  string // the carrier's key of what came in

	Person  roster.PersonID // who said it; 0 of somebody who is not known
	Message int64           // that it answers, or as which it leaves
	// Interrupts says that pushes of it stay until they are touched.
	Interrupts bool
	Passed     int64  // as which message it was passed on to the others; 0 when it was not
	Title      string // of the message that it answers
	Leaves     time.Time
	Held       bool // it can be taken back
	State      delivery.State
	Detail     string
	Moved      time.Time
	People     record.Figures // whom it went to in a thread with many, or was passed on to
}

// Thread is what was said with somebody.
type Thread struct {
	ID      int64
	Desk    desk.ID
	With    desk.With
	Group   roster.GroupID  // of a thread with a group or a job
	Unit    roster.UnitID   // of a thread with an area
	Named   bool            // somebody gave it its name
	Shared  bool            // all in it see what is said
	Person  roster.PersonID // 0 of somebody who is not on the roster, and of a thread with many
	Name    string
	Channel roster.Channel // by which they last wrote; "" of a thread with many
	Address string
	Message int64 // that they answered last, 0 for none
	Title   string
	desk.Standing
	Holder     int64
	HolderName string
	Note       string // that the last shift left
	LastAt     time.Time
	LastText   string
	LastFrom   string // the language from which the machine read it, BCP 47; "" when it did not
}

func threadOf(row query.ThreadRow) Thread {
	t := Thread{
		ID: row.ID, Desk: desk.ID(row.DeskID.Int64), Person: roster.PersonID(row.PersonID.Int64), Name: row.Name,
		With: row.Kind, Group: roster.GroupID(row.GroupID.Int64), Unit: roster.UnitID(row.UnitID.Int64),
		Named: row.Named, Shared: row.Shared,
		Channel: row.Channel, Address: row.Address, Holder: row.HolderID.Int64, HolderName: row.Holder, Note: row.LeftNote,
		LastAt: at(row.LastAt), LastText: row.LastText, LastFrom: row.LastFrom,
		Standing: standingOf(row.Waits, row.Since, row.Unread, row.BackAt),
	}
	if row.Apart == 0 {
		t.Message, t.Title = row.MessageID.Int64, row.Title
	}
	return t
}

func standingOf(waits desk.Waits, since int64, unread bool, back int64) desk.Standing {
	return desk.Standing{Waits: waits, Since: at(since), Unread: unread, Back: at(back)}
}

// Thread returns a thread.
func (s *Store) Thread(ctx context.Context, id int64) (Thread, error) {
	row, err := s.read().Thread(ctx, id)
	return threadOf(row), found(err)
}

// ThreadsWanted are some threads of a desk.
type ThreadsWanted struct {
	Desk        desk.ID
	Waits       desk.Waits      // "" for all
	Holder      int64           // who took them; 0 for anybody
	With        desk.With       // only threads of a kind; "" for all
	Words       string          // that their name, address or last words have
	Language    string          // that the person reads, BCP 47; "" for any
	Areas       []roster.UnitID // one of which the person belongs to; nil for any
	ByName      bool            // arranged by name; otherwise by what the shift owes
	From, Count int
}

// Threads lists threads of a desk, and says how many there are: those that wait for us by
// how long they do, others by what was said last, or all by name.
func (s *Store) Threads(ctx context.Context, w ThreadsWanted) (list []Thread, all int, err error) {
	if strings.TrimSpace(w.Words) != "" {
		return s.findThreads(ctx, w)
	}
	where, values := `t.desk_id = ?`, []any{w.Desk}
	add := func(condition string, value any) { where, values = where+` AND `+condition, append(values, value) }
	if w.Waits != "" {
		add(`t.waits = ?`, w.Waits)
	}
	if w.With != "" {
		add(`t.kind = ?`, w.With)
	}
	if w.Holder != 0 {
		add(`t.holder_id = ?`, w.Holder)
	}
	if w.Language != "" {
		add(`t.person_id IN (SELECT id FROM people WHERE language = ?)`, w.Language)
	}
	if w.Areas != nil {
		ids := make([]int64, len(w.Areas))
		for i, id := range w.Areas {
			ids[i] = int64(id)
		}
		add(`t.person_id IN (SELECT id FROM people WHERE unit_id IN (SELECT value FROM json_each(?)))`, idsText(ids))
	}
	if err := s.reader.QueryRowContext(ctx, `SELECT count(*) FROM threads t WHERE `+where, values...).Scan(&all); err != nil {
		return nil, 0, err
	}
	order := `t.last_at DESC, t.id`
	switch {
	case w.ByName:
		order = `t.name COLLATE NOCASE, t.id`
	case w.Waits == desk.Us:
		order = `t.since, t.id`
	}
	rows, err := s.reader.QueryContext(ctx, `SELECT t.id, t.desk_id, t.person_id, t.name, t.channel, t.address, t.message_id, t.waits,
		t.since, t.unread, t.back_at, t.holder_id, t.left_note, t.last_at, t.last_text, t.last_from, t.kind, t.group_id,
		t.unit_id, t.named, t.shared, coalesce(a.name, '')
		FROM threads t LEFT JOIN accounts a ON a.id = t.holder_id WHERE `+where+` ORDER BY `+order+` LIMIT ? OFFSET ?`,
		append(values, w.Count, w.From)...)
	if err != nil {
		return nil, 0, err
	}
	defer rows.Close() //nolint:errcheck // Err tells
	for rows.Next() {
		var r query.ThreadRow
		if err := rows.Scan(
			&r.ID, &r.DeskID, &r.PersonID, &r.Name, &r.Channel, &r.Address, &r.MessageID, &r.Waits, &r.Since, &r.Unread,
			&r.BackAt, &r.HolderID, &r.LeftNote, &r.LastAt, &r.LastText, &r.LastFrom, &r.Kind, &r.GroupID, &r.UnitID, &r.Named,
			&r.Shared, &r.Holder,
		); err != nil {
			return nil, 0, err
		}
		list = append(list, threadOf(r))
	}
	return list, all, rows.Err()
}

// findThreads lists those whose name, address or last words have some words.
func (s *Store) findThreads(ctx context.Context, w ThreadsWanted) ([]Thread, int, error) {
	words, most := w.Words, w.Count
	w.Words, w.From, w.Count = "", 0, mostThreads
	all, _, err := s.Threads(ctx, w)
	if err != nil {
		return nil, 0, err
	}
	var list []Thread
	for _, t := range all {
		if len(list) < most && holds(t.Name+" "+t.Address+" "+t.LastText, words) {
			list = append(list, t)
		}
	}
	return list, len(list), nil
}

// WithWhom are the languages that the people of a desk's threads read (BCP 47), and the
// units that they belong to.
func (s *Store) WithWhom(ctx context.Context, of desk.ID) (languages []string, units []roster.UnitID, err error) {
	rows, err := s.read().WithWhom(ctx, nullID(int64(of)))
	for _, row := range rows {
		if row.Language != "" && !slices.Contains(languages, row.Language) {
			languages = append(languages, row.Language)
		}
		if unit := roster.UnitID(row.UnitID.Int64); unit != 0 && !slices.Contains(units, unit) {
			units = append(units, unit)
		}
	}
	return languages, units, err
}

// holds reports whether a text has every one of some words, each from its beginning;
// figures, as of a number, anywhere.
func holds(text, words string) bool {
	text = " " + roster.Fold(text)
	for _, word := range strings.Fields(roster.Fold(words)) {
		figures := strings.Trim(word, "0123456789") == ""
		if figures && !strings.Contains(text, strings.TrimLeft(word, "0")) || !figures && !strings.Contains(text, " "+word) {
			return false
		}
	}
	return true
}

// mostThreads is how many threads of a desk are looked through.
const mostThreads = 20_000

// Entries are the last ones of a thread, the oldest of them first.
func (s *Store) Entries(ctx context.Context, thread int64, count int) ([]Entry, error) {
	rows, err := s.read().Entries(ctx, query.EntriesParams{ThreadID: thread, Count: int64(count)})
	if err != nil {
		return nil, err
	}
	list := make([]Entry, len(rows))
	for i, row := range rows {
		e := Entry{
			ID: row.ID, Kind: EntryKind(row.Kind), At: at(row.At), Channel: row.Channel, Address: row.Address, Name: row.Name,
			Account: row.AccountID.Int64, Subject: row.Subject, Said: row.Said, Folded: row.Folded,
			Copy: Copied{row.Language, row.Copy, row.Checked}, Message: row.MessageID.Int64,
			Person: roster.PersonID(row.PersonID.Int64), Passed: row.PassedID.Int64, Interrupts: row.Interrupts,
			People: record.Figures{
				Recipients: int(row.Recipients), Reached: int(row.Reached), Waiting: int(row.Waiting),
				NotReached: int(row.NotReached), LeftOut: int(row.LeftOut),
			},
		}
		err := errors.Join(json.Unmarshal([]byte(row.Files), &e.Files), json.Unmarshal([]byte(row.Dropped), &e.Dropped))
		if err != nil {
			return nil, fmt.Errorf("reading entry %d: %w", row.ID, err)
		}
		switch {
		case e.Kind == EntryOut:
			e.State, e.Detail, e.Held = delivery.State(row.State), row.Detail, MessageState(row.Held) == Held
			e.Leaves, e.Moved = at(row.LeavesAt), at(row.MovedAt)
		case row.Apart == 0:
			e.Title = row.Title
		default:
			e.Message = 0
		}
		list[len(rows)-1-i] = e
	}
	return list, nil
}

// Owed is what waits for us at a desk.
type Owed struct {
	Desk            desk.ID
	Threads, Unread int
	Oldest          time.Time
}

// WaitingForUs counts what waits for us at some desks.
func (s *Store) WaitingForUs(ctx context.Context, desks []desk.ID) ([]Owed, error) {
	rows, err := s.read().WaitingForUs(ctx, idsText(desks))
	list := make([]Owed, len(rows))
	for i, row := range rows {
		list[i] = Owed{desk.ID(row.DeskID.Int64), int(row.Threads), int(row.Unread), at(row.Oldest)}
	}
	return list, err
}

// DeskOfAnswer is the desk that wrote a message as an answer; 0 is none.
func (s *Store) DeskOfAnswer(ctx context.Context, message int64) (desk.ID, error) {
	id, err := s.read().DeskOfAnswer(ctx, nullID(message))
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return desk.ID(id.Int64), err
}

// CountThreads counts the threads of a desk by how they wait.
func (s *Store) CountThreads(ctx context.Context, id desk.ID) (map[desk.Waits]int, error) {
	rows, err := s.read().CountThreads(ctx, nullID(int64(id)))
	counts := map[desk.Waits]int{}
	for _, row := range rows {
		counts[row.Waits] = int(row.Threads)
	}
	return counts, err
}

// MoveThread changes how a thread stands.
func (s *Store) MoveThread(ctx context.Context, id int64, to func(desk.Standing) desk.Standing) error {
	return s.write(ctx, func(q *query.Queries) error { return moved(ctx, q, id, to) })
}

func setStanding(ctx context.Context, q *query.Queries, id int64, s desk.Standing) error {
	return q.SetStanding(ctx, query.SetStandingParams{
		ID: id, Waits: s.Waits, Since: millis(s.Since), Unread: s.Unread, BackAt: millis(s.Back),
	})
}

func moved(ctx context.Context, q *query.Queries, id int64, to func(desk.Standing) desk.Standing) error {
	row, err := q.Thread(ctx, id)
	if err != nil {
		return found(err)
	}
	return setStanding(ctx, q, id, to(standingOf(row.Waits, row.Since, row.Unread, row.BackAt)))
}

// ReadThread keeps that somebody of the desk read a thread.
func (s *Store) ReadThread(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.ReadThread(ctx, id) })
}

// HoldThread keeps who looks after a thread; 0 is nobody.
func (s *Store) HoldThread(ctx context.Context, id, account int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.HoldThread(ctx, query.HoldThreadParams{ID: id, HolderID: nullID(account)})
	})
}

// PassThreads lets time pass for threads, and returns those that stand otherwise now.
func (s *Store) PassThreads(ctx context.Context, now time.Time) ([]int64, error) {
	rows, err := s.read().ThreadsPassing(ctx, query.ThreadsPassingParams{
		Now: millis(now), Silent: millis(now.Add(-desk.Silence)),
	})
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	ids := make([]int64, len(rows))
	err = s.write(ctx, func(q *query.Queries) error {
		for i, row := range rows {
			ids[i] = row.ID
			err := moved(ctx, q, row.ID, func(at desk.Standing) desk.Standing { return at.Passed(now) })
			if err != nil {
				return err
			}
		}
		return nil
	})
	return ids, err
}

// listText is a list as JSON; none is an empty one.
func listText[T any](list []T) (string, error) {
	if list == nil {
		return "[]", nil
	}
	text, err := json.Marshal(list)
	return string(text), err
}

// addEntry writes an entry of a thread.
func addEntry(ctx context.Context, q *query.Queries, thread int64, e Entry) (int64, error) {
	files, err := listText(e.Files)
	if err != nil {
		return 0, err
	}
	dropped, err := listText(e.Dropped)
	if err != nil {
		return 0, err
	}
	return q.AddEntry(ctx, query.AddEntryParams{
		ThreadID: thread, Kind: string(e.Kind), At: millis(e.At), Channel: e.Channel, Address: e.Address, Name: e.Name,
		AccountID: nullID(e.Account), Subject: e.Subject, Said: e.Said, Folded: e.Folded, Files: files, Dropped: dropped,
		MessageID: nullID(e.Message), Source: sql.NullString{String: e.Source, Valid: e.Source != ""},
		Language: e.Copy.Language, Copy: e.Copy.Text, Checked: e.Copy.Checked, PersonID: nullID(int64(e.Person)),
		Interrupts: e.Interrupts,
	})
}

// beginningLength is how much of what was said last stands in a list, in characters.
const beginningLength = 160

func beginning(text string) string {
	if runes := []rune(text); len(runes) > beginningLength {
		return string(runes[:beginningLength-1]) + "…"
	}
	return text
}
