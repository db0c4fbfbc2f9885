// Package importer brings roster files onto the roster. The import page, the
// command line and the demo all go through it.
package importer

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

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

	mu       sync.Mutex
	progress map[int64]Progress
	last     Understood // the newest answer, for as long as it holds
	lastOn   *roster.Roster
}

// Progress is how much of a file is loaded.
type Progress struct{ Done, Total int }

// Understood is how a file was read and what loading it would do. Problem says
// why it cannot be loaded with this mapping, if it cannot.
type Understood struct {
	Import   store.Import
	Table    *exchange.Table
	Proposal *intake.Proposal
	Problem  error
}

// Add reads a file and keeps it with a first guess at its columns.
func (im *Importer) Add(ctx context.Context, account int64, name string, file []byte) (int64, error) {
	table, err := exchange.ReadCSV(file)
	if err != nil {
		return 0, err
	}
	i := store.Import{FileName: name, File: file, Mapping: intake.Guess(table.Header)}
	return im.Store.AddImport(ctx, account, i, im.Now())
}

// Understand says what loading an import would do. One that is being loaded,
// or was, has neither table nor proposal.
func (im *Importer) Understand(ctx context.Context, id int64) (Understood, error) {
	i, err := im.Store.Import(ctx, id)
	if err != nil || i.State != store.ImportProposed {
		return Understood{Import: i}, err
	}
	return im.understand(ctx, i)
}

func (im *Importer) understand(ctx context.Context, i store.Import) (Understood, error) {
	r, err := im.Store.Roster(ctx)
	if err != nil {
		return Understood{Import: i}, err
	}
	im.mu.Lock()
	last, holds := im.last, im.lastOn == r && im.last.Import.ID == i.ID && slices.Equal(im.last.Import.Mapping, i.Mapping)
	im.mu.Unlock()
	if holds {
		last.Import = i
		return last, nil
	}
	u, err := im.propose(ctx, i, r)
	if err == nil {
		im.mu.Lock()
		im.last, im.lastOn = u, r
		im.mu.Unlock()
	}
	return u, err
}

func (im *Importer) propose(ctx context.Context, i store.Import, r *roster.Roster) (u Understood, err error) {
	u.Import = i
	if u.Table, err = exchange.ReadCSV(i.File); err != nil {
		return u, err
	}
	organisation, err := im.Store.Organisation(ctx)
	if err != nil {
		return u, err
	}
	u.Proposal, u.Problem = intake.Propose(u.Table.Header, u.Table.Rows, i.Mapping, organisation.Region, r)
	if u.Proposal != nil {
		u.Proposal.Refused = append(u.Table.Unread, u.Proposal.Refused...)
	}
	return u, nil
}

// Load loads an import in one transaction, and returns what it came to in words.
func (im *Importer) Load(ctx context.Context, id int64) (result string, err error) {
	if err := im.Start(ctx, id); err != nil {
		return "", err
	}
	return im.Finish(ctx, id)
}

// Start claims an import, so that it is loaded once; Finish does the loading.
func (im *Importer) Start(ctx context.Context, id int64) error {
	u, err := im.Understand(ctx, id)
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
func (im *Importer) Finish(ctx context.Context, id int64) (result string, err error) {
	defer im.Changed(id)
	state := store.ImportProposed
	defer func() {
		im.forget(id)
		if err != nil {
			result = "Nothing was loaded: " + err.Error()
		}
		err = errors.Join(err, im.Store.EndImport(context.WithoutCancel(ctx), id, state, result))
	}()
	i, err := im.Store.Import(ctx, id)
	if err != nil {
		return "", err
	}
	u, err := im.understand(ctx, i)
	if err == nil {
		err = u.Problem
	}
	if err != nil {
		return "", err
	}
	total := len(u.Proposal.Entries)
	err = im.Store.Load(ctx, u.Proposal, func(done int) { im.tell(id, Progress{done, total}) })
	if err != nil {
		return "", err
	}
	state = store.ImportLoaded
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
		return "Nothing changed: everybody in this file is on the roster already, just so."
	}
	var parts []string
	for _, c := range []struct {
		n    int
		what string
	}{{p.Added, "added"}, {p.Changed, "changed"}, {p.Unchanged, "unchanged"}} {
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
	return sentence
}
