package intake

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// Row is one row of a table with the line of the file on which it begins.
type Row struct {
	Line  int
	Cells []string
}

// Issue is something in a file that cannot be taken as it stands.
type Issue struct {
	Line   int    `json:"line"`
	Column string `json:"column,omitempty" doc:"The heading of the column, if it is about one"`
	Value  string `json:"value,omitempty"`
	Reason string `json:"reason"`
}

// Tie is a tie to be made. The guardian is an entry of the same proposal when
// Entry is not negative, and somebody already on the roster otherwise.
type Tie struct {
	Entry    int
	Guardian roster.PersonID
	Receives bool
	Barred   bool
}

// Entry is one person as they will be on the roster. New people and new
// addresses have no identifier yet.
type Entry struct {
	Line    int
	Person  roster.Person
	Join    []string // the groups they are not in yet
	Ties    []Tie    // the ties that do not exist yet, with them as the dependent
	Changes []string // what will be different, in words; none when nothing will
}

// Added reports whether the person is new.
func (e Entry) Added() bool { return e.Person.ID == 0 }

// Nesting puts one group into another, both by name.
type Nesting struct{ Outer, Inner string }

// Proposal is what loading a table would do. Refused rows are not loaded at
// all; noted cells are left off and the rest of their row is loaded.
type Proposal struct {
	Entries   []Entry
	Groups    []string // new groups
	Nestings  []Nesting
	Refused   []Issue
	Noted     []Issue
	Added     int
	Changed   int
	Unchanged int
}

// Empty reports whether loading it would change nothing.
func (p *Proposal) Empty() bool {
	return p.Added+p.Changed+len(p.Groups)+len(p.Nestings) == 0
}

// Errors that concern a table as a whole.
var (
	ErrNoName  = errors.New("no column holds names: say which column is the given name, family name or full name")
	ErrNoRows  = errors.New("there are no rows below the headings")
	ErrMapping = errors.New("the columns do not fit the file")
)

// LongestCell is the most characters that a cell may have.
const LongestCell = 2000

// Propose works out what loading the rows would change on the roster. Mapping
// gives each column its meaning; region is the ISO 3166 country in which
// numbers without a country code are.
func Propose(header []string, rows []Row, mapping []Column, region string, r *roster.Roster) (*Proposal, error) {
	if err := checkMapping(header, mapping); err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, ErrNoRows
	}
	b := newBuilder(header, mapping, region, r)
	for _, row := range rows {
		b.row(row)
	}
	for i := range b.proposal.Entries {
		b.tie(i)
	}
	b.count()
	return b.proposal, nil
}

func checkMapping(header []string, mapping []Column) error {
	if len(mapping) != len(header) {
		return fmt.Errorf("%w: %d columns, %d meanings", ErrMapping, len(header), len(mapping))
	}
	for i, c := range mapping {
		if c != Ignored && !slices.Contains(Columns, c) {
			return fmt.Errorf("%w: %q is no meaning of a column", ErrMapping, c)
		}
		if at := slices.Index(mapping, c); at < i && !slices.Contains(several, c) {
			return fmt.Errorf("%w: both “%s” and “%s” are the %s", ErrMapping, header[at], header[i], c)
		}
	}
	if !slices.ContainsFunc(mapping, func(c Column) bool { return c == GivenName || c == FamilyName || c == FullName }) {
		return ErrNoName
	}
	return nil
}

type builder struct {
	header   []string
	mapping  []Column
	region   string
	roster   *roster.Roster
	known    *index
	inFile   *index
	read     []reading // by entry
	groups   *nesting
	proposal *Proposal
}

func newBuilder(header []string, mapping []Column, region string, r *roster.Roster) *builder {
	b := &builder{
		header: header, mapping: mapping, region: region, roster: r,
		known: newIndex(), inFile: newIndex(), groups: newNesting(r), proposal: &Proposal{},
	}
	for i := range r.Len() {
		b.known.add(i, r.At(i))
	}
	return b
}

func (b *builder) refuse(line int, column, value, reason string) {
	b.proposal.Refused = append(b.proposal.Refused, Issue{line, column, shorten(value), reason})
}

func (b *builder) note(line int, column, value, reason string) {
	b.proposal.Noted = append(b.proposal.Noted, Issue{line, column, shorten(value), reason})
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
			b.refuse(row.Line, b.heading(i), cell, fmt.Sprintf("the cell has %d characters, and no more than %d are kept", n, LongestCell))
			return
		}
	}
	noted := len(b.proposal.Noted)
	got := b.interpret(row)
	if !b.acceptable(row, got) {
		b.proposal.Noted = b.proposal.Noted[:noted] // they were about a row that loads
		return
	}
	b.enter(row, got)
}

// acceptable refuses a row that names nobody, or somebody a second time.
func (b *builder) acceptable(row Row, got reading) bool {
	if got.person.Name() == "" {
		b.refuse(row.Line, "", "", "there is no name")
		return false
	}
	if earlier, twice := b.inFile.find(&got.person); twice {
		b.refuse(row.Line, "", got.person.Name(), fmt.Sprintf("the same person as on line %d", b.proposal.Entries[earlier].Line))
		return false
	}
	return true
}

// enter makes the entry of a row, brought together with who it is already.
func (b *builder) enter(row Row, got reading) {
	entry := Entry{Line: row.Line, Person: got.person}
	if entry.Person.Status == "" {
		entry.Person.Status = roster.Active
	}
	if at, ok := b.known.find(&got.person); ok {
		entry.Person, entry.Changes = merge(*b.roster.At(at), got.person)
	}
	entry.Join = b.join(row.Line, entry.Person.ID, got.groups)
	if len(entry.Join) > 0 && !entry.Added() {
		entry.Changes = append(entry.Changes, "joins "+strings.Join(entry.Join, ", "))
	}
	b.inFile.add(len(b.proposal.Entries), &got.person)
	b.proposal.Entries = append(b.proposal.Entries, entry)
	b.read = append(b.read, got)
}

func (b *builder) heading(column int) string {
	if column < len(b.header) {
		return b.header[column]
	}
	return ""
}

// join notes new groups and nestings and returns the groups the person is not in yet.
func (b *builder) join(line int, person roster.PersonID, paths [][]string) []string {
	var join []string
	for _, path := range paths {
		if err := b.groups.add(path); err != nil {
			b.note(line, "", strings.Join(path, " > "), err.Error())
			continue
		}
		name := b.groups.canonical(path[len(path)-1])
		if !b.groups.holds(name, person) && !slices.Contains(join, name) {
			join = append(join, name)
		}
	}
	return join
}

// tie finds the guardians that a row names, now that every row is read.
func (b *builder) tie(entry int) {
	for _, g := range b.read[entry].guardians {
		tie, err := b.guardian(entry, g)
		if err != nil {
			b.note(b.proposal.Entries[entry].Line, g.column, g.name, err.Error())
			continue
		}
		if tie == nil {
			continue
		}
		e := &b.proposal.Entries[entry]
		e.Ties = append(e.Ties, *tie)
		if !e.Added() {
			e.Changes = append(e.Changes, "tied to "+g.name)
		}
	}
}

// guardian resolves a name or an external identifier; nil when the tie exists already.
func (b *builder) guardian(entry int, g namedGuardian) (*Tie, error) {
	tie := &Tie{Entry: -1, Receives: !g.barred, Barred: g.barred}
	in, err := b.inFile.named(g.name)
	if err != nil {
		return nil, err
	}
	if in >= 0 {
		if in == entry {
			return nil, errors.New("nobody is their own guardian")
		}
		tie.Entry, tie.Guardian = in, b.proposal.Entries[in].Person.ID
	} else {
		at, err := b.known.named(g.name)
		if err != nil {
			return nil, err
		}
		if at < 0 {
			return nil, errors.New("this guardian is neither in the file nor on the roster; the person loads without the tie")
		}
		tie.Guardian = b.roster.At(at).ID
	}
	if b.tied(b.proposal.Entries[entry].Person.ID, *tie) {
		return nil, nil
	}
	return tie, nil
}

func (b *builder) tied(dependent roster.PersonID, tie Tie) bool {
	at, ok := b.roster.Position(dependent)
	if !ok || tie.Guardian == 0 {
		return false
	}
	return slices.ContainsFunc(b.roster.Guardians(at), func(t roster.Tie) bool {
		return t.Guardian == tie.Guardian && t.Barred == tie.Barred
	})
}

func (b *builder) count() {
	p := b.proposal
	p.Groups, p.Nestings = b.groups.created, b.groups.nestings
	for _, e := range p.Entries {
		switch {
		case e.Added():
			p.Added++
		case len(e.Changes) > 0:
			p.Changed++
		default:
			p.Unchanged++
		}
	}
	byLine := func(a, b Issue) int { return a.Line - b.Line }
	slices.SortStableFunc(p.Refused, byLine)
	slices.SortStableFunc(p.Noted, byLine)
}
