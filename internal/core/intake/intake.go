package intake

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// Place is where in a file something stands.
type Place struct {
	Sheet string `json:"sheet,omitempty" doc:"Of a workbook with several, or the file of a bundle"`
	Line  int    `json:"line"`
}

func (p Place) String() string {
	if p.Sheet == "" {
		return fmt.Sprintf("line %d", p.Line)
	}
	return fmt.Sprintf("%s, line %d", p.Sheet, p.Line)
}

// Row is one row of a table with the place at which it begins.
type Row struct {
	Place
	Cells []string
}

// Issue is something in a file that cannot be taken as it stands.
type Issue struct {
	Place
	Column string `json:"column,omitempty" doc:"The heading of the column, if it is about one"`
	Value  string `json:"value,omitempty"`
	Reason string `json:"reason"`
}

// Entry is one person of a file as they are on the roster and as they will
// be. Before is nil for a new one, who has a negative identifier: minus one
// and minus the entry's index. The new groups of a proposal are numbered alike.
type Entry struct {
	Place
	Before  *roster.Sheet
	After   *roster.Sheet
	Changes []roster.Change // what will be different; none when nothing will
}

// Added reports whether the person is new.
func (e Entry) Added() bool { return e.Before == nil }

// Proposal is what loading a table would do. Refused rows are not loaded at
// all; noted cells are left off and the rest of their row is loaded.
type Proposal struct {
	Entries   []Entry
	Groups    []roster.Group // new groups
	Nestings  []roster.Nesting
	Refused   []Issue
	Noted     []Issue
	Missing   []*roster.Sheet // who has a role of the file's people and is not in it
	Added     int
	Changed   int
	Unchanged int
	// BarsKept are the barred ties of the roster that the file calls guardians
	// who receive. They stay barred: only a person lifts a bar.
	BarsKept int
	// Units are names that the file has for units which there are not.
	Units []string
	// Questions are to be answered before it is loaded.
	Questions []FileQuestion
	markLeft  bool
}

// Leaving is how many people it marks as left because the file has them not.
func (p *Proposal) Leaving() int {
	if !p.markLeft {
		return 0
	}
	return len(p.Missing)
}

// Empty reports whether loading it would change nothing.
func (p *Proposal) Empty() bool {
	return p.Added+p.Changed+len(p.Groups)+len(p.Nestings)+p.Leaving() == 0
}

// Edit is the proposal as one edit of the roster.
func (p *Proposal) Edit(said string) *roster.Edit {
	e := &roster.Edit{Kind: roster.Imported, Said: said, Groups: p.Groups, Nest: p.Nestings}
	for _, entry := range p.Entries {
		if entry.Added() || len(entry.Changes) > 0 {
			e.People = append(e.People, roster.PersonEdit{Before: entry.Before, After: entry.After})
		}
	}
	if !p.markLeft {
		return e
	}
	for _, before := range p.Missing {
		after := before.Clone()
		after.Status, after.AwayUntil = roster.Left, ""
		e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
	}
	return e
}

// Errors that concern a table as a whole.
var (
	ErrNoName  = errors.New("no column holds names: say which column is the given name, family name or full name")
	ErrNoRows  = errors.New("there are no rows below the headings")
	ErrMapping = errors.New("the columns do not fit the file")
	// ErrUnread comes with the lines and the reason of each.
	ErrUnread = errors.New("none of the rows below the headings can be read")
)

// LongestCell is the most characters that a cell may have.
const LongestCell = 5000

// Table is a file and what is known about reading it.
type Table struct {
	Header  []string
	Rows    []Row
	Mapping []Column // the meaning of each column
	Region  string   // ISO 3166, in which numbers without a country code are
	Roles   []roster.Role
	// Unit is where new people belong whose row names no unit.
	Unit roster.UnitID
	// MarkLeft marks as left who is missing from the file.
	MarkLeft bool
	// Zone reports whether a time zone is known.
	Zone func(string) bool
	// Reading is what was said about how the file is to be read.
	Reading Reading
}

// Reading is what a person says about how a file is to be read; what is empty the
// program finds out.
type Reading struct {
	Encoding string                   `json:"encoding,omitempty" maxLength:"40" doc:"Of a text, such as Windows-1250; empty is what it looks like"`
	Heading  int                      `json:"heading,omitempty" minimum:"0" maximum:"1000" doc:"The line of the headings; 0 is where they seem to be"`
	Dates    DateOrder                `json:"dates,omitempty" doc:"The order of days and months where only digits tell"`
	Statuses map[string]roster.Status `json:"statuses,omitempty" doc:"What words of status mean that the program does not know, in lower case"`
}

// QuestionKind says what a question is about.
type QuestionKind string

// The kinds of questions.
const (
	DateQuestion   QuestionKind = "dates"
	StatusQuestion QuestionKind = "status"
)

// FileQuestion is what a person has to say before a file is loaded.
type FileQuestion struct {
	Kind   QuestionKind `json:"kind" enum:"dates,status"`
	Column string       `json:"column"`
	Value  string       `json:"value" doc:"A date that can be read both ways, or a word of status in lower case"`
	Rows   int          `json:"rows" doc:"How many rows it concerns"`
}

// ErrQuestions means that something is to be said before a file is loaded.
var ErrQuestions = errors.New("answer what is asked above the columns first")

// mostQuestions bounds how many words of one file are asked about.
const mostQuestions = 50

// Propose works out what loading a table would change on the roster.
func Propose(t Table, r *roster.Roster) (*Proposal, error) {
	if err := t.check(r); err != nil {
		return nil, err
	}
	if len(t.Rows) == 0 {
		return nil, ErrNoRows
	}
	return newBuilder(t, r).propose(), nil
}

func (b *builder) propose() *Proposal {
	b.findOrders()
	for _, row := range b.Rows {
		b.row(row)
	}
	for i := range b.proposal.Entries {
		b.tie(i)
	}
	b.bar()
	b.finish()
	return b.proposal
}

// findOrders finds the order of the dates of each column that holds some.
func (b *builder) findOrders() {
	b.orders = make([]DateOrder, len(b.Mapping))
	for i, c := range b.Mapping {
		if !b.holdsDates(c) {
			continue
		}
		var cells []string
		for _, row := range b.Rows {
			if i < len(row.Cells) {
				cells = append(cells, row.Cells[i])
			}
		}
		order, certain, example := orderOf(cells)
		if !certain {
			order = b.Reading.Dates
		}
		if !certain && order == "" {
			order = DayFirst
			b.ask(FileQuestion{Kind: DateQuestion, Column: b.heading(i), Value: example})
		}
		b.orders[i] = order
	}
}

func (b *builder) holdsDates(c Column) bool {
	return c == BornOn || c == AwayUntil || slices.ContainsFunc(b.roster.Attributes, func(a roster.Attribute) bool {
		return a.Kind == roster.DateAttribute && AttributeColumn(a.Name) == c
	})
}

// ask adds a question, or counts one more row to it.
func (b *builder) ask(q FileQuestion) {
	p := b.proposal
	at := slices.IndexFunc(p.Questions, func(o FileQuestion) bool {
		return o.Kind == q.Kind && o.Column == q.Column && (o.Value == q.Value || q.Kind == DateQuestion)
	})
	if at < 0 {
		if len(p.Questions) == mostQuestions {
			return
		}
		at, p.Questions = len(p.Questions), append(p.Questions, q)
	}
	p.Questions[at].Rows++
}

func (t Table) check(r *roster.Roster) error {
	if len(t.Mapping) != len(t.Header) {
		return fmt.Errorf("%w: %d columns, %d meanings", ErrMapping, len(t.Header), len(t.Mapping))
	}
	possible := MeaningsFor(r)
	for i, c := range t.Mapping {
		if c != Ignored && !slices.Contains(possible, c) {
			return fmt.Errorf("%w: %q is no meaning of a column", ErrMapping, c)
		}
		if at := slices.Index(t.Mapping, c); at < i && !mayRepeat(c) {
			return fmt.Errorf("%w: both “%s” and “%s” are the %s", ErrMapping, t.Header[at], t.Header[i], c)
		}
	}
	if !slices.ContainsFunc(t.Mapping, func(c Column) bool { return c == GivenName || c == FamilyName || c == FullName }) {
		return ErrNoName
	}
	return nil
}

type builder struct {
	Table
	roster   *roster.Roster
	known    *index
	inFile   *index
	read     []reading // by entry
	matched  []bool    // by position: who is in the file
	groups   *nesting
	orders   []DateOrder   // by column
	named    map[int]bool  // entries of guardians whom a row names, who have no row yet
	barred   map[pair]bool // by what the rows say
	allowed  map[pair]bool
	proposal *Proposal
}

func newBuilder(t Table, r *roster.Roster) *builder {
	b := &builder{
		Table: t, roster: r, known: newIndex(), inFile: newIndex(), matched: make([]bool, r.Len()),
		named: map[int]bool{}, groups: newNesting(r), barred: map[pair]bool{}, allowed: map[pair]bool{},
		proposal: &Proposal{markLeft: t.MarkLeft},
	}
	for i := range r.Len() {
		b.known.add(i, r.At(i))
	}
	return b
}

func (b *builder) refuse(at Place, column, value, reason string) {
	b.proposal.Refused = append(b.proposal.Refused, Issue{at, column, shorten(value), reason})
}

func (b *builder) note(at Place, column, value, reason string) {
	b.proposal.Noted = append(b.proposal.Noted, Issue{at, column, shorten(value), reason})
}

func shorten(value string) string {
	if r := []rune(value); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return value
}

// row turns one row into an entry, or refuses it.
func (b *builder) row(row Row) {
	for i, cell := range row.Cells {
		if n := len([]rune(cell)); n > LongestCell {
			b.refuse(row.Place, b.heading(i), cell, fmt.Sprintf(
				"the cell has %d characters, and no more than %d are kept", n, LongestCell,
			))
			return
		}
	}
	noted := len(b.proposal.Noted)
	got := b.interpret(row)
	if !b.acceptable(row, got) {
		b.proposal.Noted = b.proposal.Noted[:noted] // they were about a row that loads
		return
	}
	if at, known := b.inFile.find(&got.person); known { // a guardian whom an earlier row names
		got.person.Status = cmp.Or(got.person.Status, b.proposal.Entries[at].After.Status)
		b.proposal.Entries[at].After = merge(b.proposal.Entries[at].After, got.person)
		b.proposal.Entries[at].Place = row.Place
		b.read[at], b.named[at] = got, false
		b.join(at, row, got)
		return
	}
	if got.namesGuardians() {
		addRole(&got.person, roster.Dependent)
	}
	b.enterGuardians(row, b.enter(row, got))
}

// acceptable refuses a row that names nobody, or somebody a second time.
func (b *builder) acceptable(row Row, got reading) bool {
	if got.person.Name() == "" {
		b.refuse(row.Place, "", "", "there is no name")
		return false
	}
	if earlier, twice := b.inFile.find(&got.person); twice && !b.named[earlier] {
		b.refuse(row.Place, "", got.person.Name(), "the same person as on "+b.proposal.Entries[earlier].String())
		return false
	}
	return true
}

// enter makes the entry of a row, brought together with who it is already, and gives
// its index.
func (b *builder) enter(row Row, got reading) int {
	index := len(b.proposal.Entries)
	entry := Entry{Place: row.Place}
	at, known := b.known.find(&got.person)
	if known && b.roster.Guest(b.roster.At(at).ID) {
		b.note(row.Place, "", got.person.Name(), "belongs to another unit; what the row says about them is left off")
		id := b.roster.At(at).ID
		got = reading{
			person: roster.Person{
				GivenName: got.person.GivenName, FamilyName: got.person.FamilyName, ExternalID: b.roster.At(at).ExternalID,
			},
		}
		entry.Before = b.roster.Sheet(id)
		entry.After = b.roster.Sheet(id)
	} else if known && !b.matched[at] {
		b.matched[at] = true
		entry.Before = b.roster.Sheet(b.roster.At(at).ID)
		entry.After = merge(entry.Before, got.person)
	} else {
		entry.After = &roster.Sheet{Person: got.person}
		entry.After.ID = roster.PersonID(-index - 1)
		if entry.After.Status == "" {
			entry.After.Status = roster.Active
		}
		if entry.After.Unit == 0 {
			entry.After.Unit = b.Unit
		}
	}
	b.inFile.add(index, &got.person)
	b.proposal.Entries = append(b.proposal.Entries, entry)
	b.read = append(b.read, got)
	b.join(index, row, got)
	return index
}

// join puts the person of an entry into the groups of their row.
func (b *builder) join(at int, row Row, got reading) {
	for _, path := range got.groups {
		id, err := b.groups.add(path)
		if err != nil {
			b.note(row.Place, "", strings.Join(path, " > "), err.Error())
			continue
		}
		b.proposal.Entries[at].After.Join(id)
	}
}

func (b *builder) heading(column int) string {
	if column < len(b.Header) {
		return b.Header[column]
	}
	return ""
}

// tie finds the people that a row names, now that every row is read.
func (b *builder) tie(entry int) {
	e := &b.proposal.Entries[entry]
	for _, n := range b.read[entry].named {
		other, err := b.person(n.name)
		if err == nil && other == e.After.ID {
			err = errors.New("nobody is their own guardian")
		}
		if err != nil {
			b.note(e.Place, n.column, n.name, err.Error())
			continue
		}
		tie := roster.Tie{Guardian: other, Dependent: e.After.ID, Receives: !n.barred, Barred: n.barred}
		if n.dependent {
			tie.Guardian, tie.Dependent = e.After.ID, other
		}
		b.putTie(e.After, tie)
	}
	for _, t := range b.read[entry].tied {
		b.putTie(e.After, roster.Tie{
			Guardian: b.proposal.Entries[t.entry].After.ID, Dependent: e.After.ID,
			Receives: !t.silenced && !t.barred, Barred: t.barred,
		})
	}
}

// pair is who a tie joins.
type pair struct{ guardian, dependent roster.PersonID }

func pairOf(t roster.Tie) pair { return pair{t.Guardian, t.Dependent} }

// putTie adds a tie. Of one that is there already a file can only say that its
// contact is barred.
func (b *builder) putTie(s *roster.Sheet, tie roster.Tie) {
	if tie.Barred {
		b.barred[pairOf(tie)] = true
	} else {
		b.allowed[pairOf(tie)] = true
	}
	if !slices.ContainsFunc(s.Ties, tie.Joins) {
		s.Ties = append(s.Ties, tie)
	}
}

// bar makes every tie barred that the roster or any row says is barred,
// whatever other rows and columns say, and counts the bars of the roster that
// the file would have lifted.
func (b *builder) bar() {
	for _, t := range b.roster.Ties {
		if t.Barred && b.allowed[pairOf(t)] {
			b.proposal.BarsKept++
		}
	}
	for _, e := range b.proposal.Entries {
		for i, t := range e.After.Ties {
			e.After.Ties[i] = t.Joined(roster.Tie{Barred: b.barred[pairOf(t)]})
		}
	}
}

// person resolves a name or an external identifier, first among the people of
// the file.
func (b *builder) person(name string) (roster.PersonID, error) {
	in, err := b.inFile.named(name)
	if err != nil {
		return 0, err
	}
	if in >= 0 {
		return b.proposal.Entries[in].After.ID, nil
	}
	at, err := b.known.named(name)
	if err != nil {
		return 0, err
	}
	if at < 0 {
		return 0, errors.New("is neither in the file nor on the roster; the person loads without the tie")
	}
	return b.roster.At(at).ID, nil
}

// PersonName and GroupName call new people and groups by their names too.
func (b *builder) PersonName(id roster.PersonID) string {
	if id < 0 {
		return b.proposal.Entries[-id-1].After.Name()
	}
	return b.roster.PersonName(id)
}

func (b *builder) GroupName(id roster.GroupID) string {
	if id < 0 {
		return b.groups.made[-id-1].Name
	}
	return b.roster.GroupName(id)
}

func (b *builder) finish() {
	p := b.proposal
	p.Groups, p.Nestings = b.groups.made, b.groups.nestings
	for i := range p.Groups {
		p.Groups[i].Unit = b.Unit
	}
	for i := range p.Entries {
		e := &p.Entries[i]
		e.Changes = b.roster.Differ(e.Before, e.After, b)
		switch {
		case e.Added():
			p.Added++
		case len(e.Changes) > 0:
			p.Changed++
		default:
			p.Unchanged++
		}
	}
	b.miss()
	SortIssues(p.Refused)
	SortIssues(p.Noted)
}

// miss finds who could be expected in the file and is not: people who have an
// external identifier and a role that somebody in the file has.
func (b *builder) miss() {
	roles := map[roster.Role]bool{}
	for _, e := range b.proposal.Entries {
		for _, role := range e.After.Roles {
			roles[role] = true
		}
	}
	for i, matched := range b.matched {
		p := b.roster.At(i)
		expected := p.ExternalID != "" && p.Status != roster.Left && !b.roster.Guest(p.ID)
		if !matched && expected && slices.ContainsFunc(p.Roles, func(r roster.Role) bool { return roles[r] }) {
			b.proposal.Missing = append(b.proposal.Missing, b.roster.Sheet(p.ID))
		}
	}
}

// SortIssues puts issues into the order of the file.
func SortIssues(issues []Issue) {
	slices.SortStableFunc(issues, func(a, b Issue) int {
		return cmp.Or(strings.Compare(a.Sheet, b.Sheet), cmp.Compare(a.Line, b.Line))
	})
}
