// Package importer brings roster files onto the roster. The import page, the
// command line and the demo all go through it.
package importer

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

// Importer keeps files until they are loaded and tells how loading goes.
type Importer struct {
	Store *store.Store
	Now   func() time.Time
	// Changed is told an import that moved on. It must not block.
	Changed func(importID int64)
	Log     *slog.Logger

	mu       sync.Mutex
	progress map[int64]Progress
	last     Understood // the newest answer, for as long as it holds
	lastOn   *roster.Roster
	lastAt   time.Time // when it was last asked for
}

// KnownZone reports whether a time zone is known.
func KnownZone(name string) bool {
	_, err := time.LoadLocation(name)
	return err == nil && name != "" && name != "Local"
}

// Progress is how much of a file is loaded.
type Progress struct{ Done, Total int }

// Understood is how a file was read and what loading it would do. Problem says
// why it cannot be loaded with this mapping, if it cannot; the proposal then
// holds only the rows that could not be read.
type Understood struct {
	Import   store.Import
	Mapping  string // the kept mapping that fits the file's headings, if one does
	Table    *exchange.Table
	Proposal *intake.Proposal
	Problem  error
}

// ErrUnmapped means that columns or a unit were chosen that there are not.
var ErrUnmapped = errors.New("nothing was changed")

// Import returns an import that is somebody's own, or any for those who reach the
// whole organisation; any other is store.ErrNotFound.
func (im *Importer) Import(ctx context.Context, by access.Principal, id int64) (store.Import, error) {
	i, err := im.Store.Import(ctx, id)
	if err == nil && i.Account != by.ID && !by.Scope.Whole {
		err = store.ErrNotFound
	}
	return i, err
}

// Last is the newest import that can be undone, and that somebody may see; any
// other is store.ErrNotFound.
func (im *Importer) Last(ctx context.Context, by access.Principal) (store.LoadedImport, error) {
	last, err := im.Store.LastImport(ctx)
	if err != nil {
		return last, err
	}
	_, err = im.Import(ctx, by, last.ID)
	return last, err
}

// Map says what the columns of an import mean, to which unit new people belong,
// whether those who are missing from it are marked as left, and how its file is read.
// A file that is read in another way has its columns guessed anew.
func (im *Importer) Map(ctx context.Context, by access.Principal, i store.Import) error {
	before, err := im.Import(ctx, by, i.ID)
	if err != nil {
		return err
	}
	r, err := im.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return err
	}
	possible := intake.MeaningsFor(r)
	for _, c := range i.Mapping {
		if c != intake.Ignored && !slices.Contains(possible, c) {
			return fmt.Errorf("%w: there is no column meaning “%s”", ErrUnmapped, c)
		}
	}
	if !r.MayBelong(i.Unit, by.Scope) {
		return fmt.Errorf("%w: choose one of your units for the new people", ErrUnmapped)
	}
	if i.Reading.Encoding != before.Reading.Encoding || i.Reading.Heading != before.Reading.Heading {
		file, err := im.Store.ImportFile(ctx, i.ID)
		if err == nil && file == nil {
			err = store.ErrNotFound // it was forgotten
		}
		if err != nil {
			return err
		}
		table, err := exchange.ReadAs(file, i.Reading)
		if err != nil {
			return err
		}
		if i.Mapping, err = im.guess(ctx, table, r); err != nil {
			return err
		}
	}
	return im.Store.SetImport(ctx, i)
}

// Units are made by whoever may.
type Units interface {
	SaveUnit(ctx context.Context, by access.Principal, u roster.Unit) (roster.UnitID, error)
}

// MakeUnits makes a unit of each name that an import has for one which there is not. It
// returns how many.
func (im *Importer) MakeUnits(ctx context.Context, by access.Principal, id int64, units Units) (int, error) {
	u, err := im.Understand(ctx, by, id)
	if err != nil || u.Proposal == nil {
		return 0, err
	}
	for n, name := range u.Proposal.Units {
		if _, err := units.SaveUnit(ctx, by, roster.Unit{Name: name}); err != nil {
			return n, err
		}
	}
	return len(u.Proposal.Units), nil
}

// guess is what the columns of a file mean: as a kept mapping says that fits it, or by
// its headings.
func (im *Importer) guess(ctx context.Context, table *exchange.Table, r *roster.Roster) ([]intake.Column, error) {
	kept, err := im.fitting(ctx, table.Header)
	if err != nil {
		return nil, err
	}
	if kept != nil {
		return apply(kept, table.Header), nil
	}
	return intake.Guess(table.Header, table.Rows, r.Attributes), nil
}

// Add reads a file and keeps it with a first guess at its columns.
func (im *Importer) Add(ctx context.Context, by access.Principal, name string, file []byte) (int64, error) {
	table, err := exchange.Read(file)
	if err != nil {
		return 0, err
	}
	r, err := im.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return 0, err
	}
	i := store.Import{FileName: name, File: file}
	if i.Mapping, err = im.guess(ctx, table, r); err != nil {
		return 0, err
	}
	if !by.Scope.Whole && len(by.Scope.Units) > 0 {
		i.Unit = by.Scope.Units[0]
	}
	return im.Store.AddImport(ctx, by.ID, i, im.Now())
}

// fitting returns the kept mapping that says something of every heading of a
// file, or nil.
func (im *Importer) fitting(ctx context.Context, header []string) (*store.Mapping, error) {
	kept, err := im.Store.Mappings(ctx)
	if err != nil {
		return nil, err
	}
	for _, m := range kept {
		unknown := func(heading string) bool {
			_, known := m.Columns[heading]
			return !known
		}
		if !slices.ContainsFunc(header, unknown) {
			return &m, nil
		}
	}
	return nil, nil
}

func apply(m *store.Mapping, header []string) []intake.Column {
	mapping := make([]intake.Column, len(header))
	for i, heading := range header {
		mapping[i] = m.Columns[heading]
	}
	return mapping
}

// KeepMapping keeps how the columns of an import are understood, for files
// with the same headings.
func (im *Importer) KeepMapping(ctx context.Context, by access.Principal, id int64, name string) error {
	u, err := im.Understand(ctx, by, id)
	if err != nil {
		return err
	}
	if u.Table == nil {
		return store.ErrConflict
	}
	m := store.Mapping{Owner: by.ID, Name: name, Columns: map[string]intake.Column{}}
	for i, heading := range u.Table.Header {
		m.Columns[heading] = u.Import.Mapping[i]
	}
	im.mu.Lock()
	im.lastOn = nil // what is known of it does not know the name
	im.mu.Unlock()
	return im.Store.KeepMapping(ctx, m)
}

// RefusedRows are the rows that will not load as they stand in the file, with
// their place and the reason in front.
func (u Understood) RefusedRows() (header []string, rows [][]string) {
	if u.Table == nil || u.Proposal == nil {
		return []string{"Line", "Reason"}, nil
	}
	cells := make(map[intake.Place][]string, len(u.Table.Rows))
	for _, row := range u.Table.Rows {
		cells[row.Place] = row.Cells
	}
	for _, issue := range u.Proposal.Refused {
		rows = append(rows, append([]string{issue.Place.String(), issue.Reason}, cells[issue.Place]...))
	}
	return append([]string{"Line", "Reason"}, u.Table.Header...), rows
}

// Understand says what loading an import would do. One that is being loaded,
// or was, has neither table nor proposal.
func (im *Importer) Understand(ctx context.Context, by access.Principal, id int64) (Understood, error) {
	i, err := im.Import(ctx, by, id)
	if err != nil || i.State != store.ImportProposed {
		return Understood{Import: i}, err
	}
	return im.understand(ctx, by, i)
}

func (im *Importer) understand(ctx context.Context, by access.Principal, i store.Import) (Understood, error) {
	r, err := im.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return Understood{Import: i}, err
	}
	im.mu.Lock()
	last, holds := im.last, im.lastOn == r && im.last.Import.ID == i.ID &&
		slices.Equal(im.last.Import.Mapping, i.Mapping) &&
		im.last.Import.Unit == i.Unit && im.last.Import.MarkLeft == i.MarkLeft &&
		reflect.DeepEqual(im.last.Import.Reading, i.Reading)
	im.mu.Unlock()
	if holds {
		im.remember(last, r)
		last.Import = i
		return last, nil
	}
	u, err := im.propose(ctx, i, r)
	if err == nil {
		im.remember(u, r)
	}
	return u, err
}

func (im *Importer) remember(u Understood, on *roster.Roster) {
	im.mu.Lock()
	defer im.mu.Unlock()
	im.last, im.lastOn, im.lastAt = u, on, im.Now()
}

// How long what was given and not loaded is kept: in memory, and at all.
const (
	rememberedFor = 10 * time.Minute
	keptFor       = 24 * time.Hour
)

// Sweep forgets what nobody came back to load.
func (im *Importer) Sweep(ctx context.Context) (files int, err error) {
	now := im.Now()
	im.mu.Lock()
	if now.Sub(im.lastAt) > rememberedFor {
		im.last, im.lastOn = Understood{}, nil
	}
	im.mu.Unlock()
	return im.Store.ForgetImports(ctx, now.Add(-keptFor))
}

func (im *Importer) propose(ctx context.Context, i store.Import, r *roster.Roster) (u Understood, err error) {
	u.Import = i
	file, err := im.Store.ImportFile(ctx, i.ID)
	if err == nil && file == nil {
		err = store.ErrNotFound // it was forgotten
	}
	if err != nil {
		return u, err
	}
	if u.Table, err = exchange.ReadAs(file, i.Reading); err != nil {
		return u, err
	}
	organisation, err := im.Store.Organisation(ctx)
	if err != nil {
		return u, err
	}
	kept, err := im.fitting(ctx, u.Table.Header)
	if err != nil {
		return u, err
	}
	if kept != nil && slices.Equal(apply(kept, u.Table.Header), i.Mapping) {
		u.Mapping = kept.Name
	}
	u.Proposal, u.Problem = intake.Propose(intake.Table{
		Header: u.Table.Header, Rows: u.Table.Rows, Mapping: i.Mapping, Region: organisation.Region,
		Roles: organisation.AllRoles(),
		Unit:  i.Unit, MarkLeft: i.MarkLeft, Zone: KnownZone, Reading: i.Reading,
	}, r)
	switch {
	case u.Problem != nil:
		u.Proposal = &intake.Proposal{}
	case len(u.Proposal.Questions) > 0:
		u.Problem = intake.ErrQuestions
	}
	if errors.Is(u.Problem, intake.ErrNoRows) && len(u.Table.Unread) > 0 {
		u.Problem = fmt.Errorf("%w: %s says “%s”", intake.ErrUnread, u.Table.Unread[0].Place, u.Table.Unread[0].Reason)
	}
	u.Proposal.Refused = append(u.Proposal.Refused, u.Table.Unread...)
	u.Proposal.Noted = append(u.Proposal.Noted, u.Table.Noted...)
	intake.SortIssues(u.Proposal.Refused)
	intake.SortIssues(u.Proposal.Noted)
	return u, nil
}

// Load loads an import in one transaction, and returns what it came to in words.
func (im *Importer) Load(ctx context.Context, by access.Principal, id int64) (result string, err error) {
	if err := im.Start(ctx, by, id); err != nil {
		return "", err
	}
	return im.Finish(ctx, by, id)
}

// Begin loads an import, and returns when loading has begun; Changed tells how it
// goes.
func (im *Importer) Begin(ctx context.Context, by access.Principal, id int64) (store.Import, error) {
	if err := im.Start(ctx, by, id); err != nil {
		return store.Import{}, err
	}
	background := context.WithoutCancel(ctx)
	go func() {
		if _, err := im.Finish(background, by, id); err != nil {
			im.Log.ErrorContext(background, "loading a file", "import", id, "error", err)
		}
	}()
	return im.Store.Import(ctx, id)
}

// Start claims an import, so that it is loaded once; Finish does the loading.
func (im *Importer) Start(ctx context.Context, by access.Principal, id int64) error {
	u, err := im.Understand(ctx, by, id)
	switch {
	case err != nil:
		return err
	case u.Import.State != store.ImportProposed:
		return store.ErrConflict
	case u.Problem != nil:
		return u.Problem
	}
	return im.Store.StartImport(ctx, id)
}

// Finish loads a started import. When it fails nothing is loaded and the
// import is as it was before.
func (im *Importer) Finish(ctx context.Context, by access.Principal, id int64) (result string, err error) {
	defer im.Changed(id)
	state, edit := store.ImportProposed, int64(0)
	defer func() {
		im.forget(id)
		if err != nil {
			result = "Nothing was loaded: " + err.Error()
		}
		err = errors.Join(err, im.Store.EndImport(context.WithoutCancel(ctx), id, state, result, edit))
	}()
	i, err := im.Store.Import(ctx, id)
	if err != nil {
		return "", err
	}
	u, err := im.understand(ctx, by, i)
	if err == nil {
		err = u.Problem
	}
	if err != nil {
		return "", err
	}
	total := len(u.Proposal.Entries)
	applied, err := im.Store.Apply(
		ctx, by.ID, u.Proposal.Edit("loaded "+i.FileName), im.Now(),
		func(done int) { im.tell(id, Progress{done, total}) },
	)
	if err != nil {
		return "", err
	}
	state, edit = store.ImportLoaded, applied.Edit
	im.mu.Lock()
	im.last, im.lastOn = Understood{}, nil // it may be large
	im.mu.Unlock()
	return Outcome(u.Proposal), nil
}

func (im *Importer) tell(id int64, p Progress) {
	im.mu.Lock()
	if im.progress == nil {
		im.progress = map[int64]Progress{}
	}
	im.progress[id] = p
	im.mu.Unlock()
	im.Changed(id)
}

func (im *Importer) forget(id int64) {
	im.mu.Lock()
	defer im.mu.Unlock()
	delete(im.progress, id)
}

// Progress is how an import that is being loaded goes.
func (im *Importer) Progress(id int64) Progress {
	im.mu.Lock()
	defer im.mu.Unlock()
	return im.progress[id]
}

// Outcome says in words what loading a proposal came to.
func Outcome(p *intake.Proposal) string {
	if p.Empty() {
		return "Nothing changed: everybody in this file is on the roster already, just so." + barsKept(p)
	}
	var parts []string
	for _, c := range []struct {
		n    int
		what string
	}{{p.Added, "added"}, {p.Changed, "changed"}, {p.Unchanged, "unchanged"}, {p.Leaving(), "marked as left"}} {
		if c.n > 0 {
			parts = append(parts, fmt.Sprintf("%s %s", plan.Thousands(c.n), c.what))
		}
	}
	sentence := "People: " + strings.Join(parts, ", ") + "."
	if n := len(p.Groups); n > 0 {
		sentence += " " + plan.Count(n, "new group", "new groups") + "."
	}
	if n := len(p.Refused); n > 0 {
		sentence += " " + plan.Count(n, "row was", "rows were") + " not loaded."
	}
	return sentence + barsKept(p)
}

// barsKept says how many barred contacts a file would have lifted.
func barsKept(p *intake.Proposal) string {
	if p.BarsKept == 0 {
		return ""
	}
	return " " + plan.Count(
		p.BarsKept, "barred contact", "barred contacts",
	) + " that the file has as receiving stayed barred."
}
