package editing

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// MostPages is how many pages somebody keeps at most.
const MostPages = 20

// ErrPages refuses one more kept page.
var ErrPages = errors.New("too many pages are kept")

// ErrCode refuses a code that no terminal shows.
var ErrCode = errors.New("no terminal shows this code")

// hashOf is under what the key of a kept page is kept.
func hashOf(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}

// keptBy finds who keeps a page under a key.
func (g *Editor) keptBy(ctx context.Context, key string, v *Visitor) (roster.PersonID, error) {
	kept, err := g.Store.KeptPage(ctx, hashOf(key), g.Now())
	if errors.Is(err, store.ErrNotFound) {
		return 0, link.ErrNotOurs
	}
	v.Kept = kept
	return kept.Person, err
}

// Keep gives whoever holds a link the key of a page that they keep on a device.
func (g *Editor) Keep(ctx context.Context, token, kind string) (key string, err error) {
	v, err := g.Visit(ctx, token)
	if err != nil {
		return "", err
	}
	pages, err := g.Store.KeptPages(ctx, v.Sheet.ID)
	if err != nil {
		return "", err
	}
	if len(pages) >= MostPages {
		return "", ErrPages
	}
	key = rand.Text()
	return key, g.Store.KeepPage(ctx, hashOf(key), store.KeptPage{Person: v.Sheet.ID, Kind: kind, Kept: g.Now()})
}

// EndOwn ends the page that somebody keeps under a key.
func (g *Editor) EndOwn(ctx context.Context, key string) error {
	v, err := g.Visit(ctx, key)
	if err != nil {
		return err
	}
	if v.Kept.ID == 0 {
		return link.ErrNotOurs
	}
	return g.end(ctx, v.Kept)
}

func (g *Editor) end(ctx context.Context, k store.KeptPage) error {
	if err := g.Store.EndPage(ctx, k); err != nil {
		return err
	}
	g.Changed()
	return nil
}

// Pages are the pages that somebody keeps.
func (g *Editor) Pages(ctx context.Context, by access.Principal, id roster.PersonID) ([]store.KeptPage, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, err
	}
	if _, err := d.own(id); err != nil {
		return nil, err
	}
	return g.Store.KeptPages(ctx, id)
}

// EndPage ends a page that somebody keeps.
func (g *Editor) EndPage(ctx context.Context, by access.Principal, id roster.PersonID, page int64) error {
	pages, err := g.Pages(ctx, by, id)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(pages, func(k store.KeptPage) bool { return k.ID == page })
	if at < 0 {
		return store.ErrNotFound
	}
	return g.end(ctx, pages[at])
}

// Terminal gives a vehicle terminal in a network, that waits to be paired, the code that it
// shows and the key of the page that it becomes.
func (g *Editor) Terminal(ctx context.Context, network string) (code, key string, err error) {
	code, key = own.Code(rand.Text()), rand.Text()
	now := g.Now()
	return code, key, g.Store.AddPairing(ctx, code, hashOf(key), network, now, now.Add(-own.CodeHolds))
}

// Pair makes the vehicle terminal that shows a code a device of somebody: the one of
// theirs on the roster that is not connected, else a new one.
func (g *Editor) Pair(ctx context.Context, by access.Principal, id roster.PersonID, typed string) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	before, err := d.own(id)
	if err != nil {
		return Done{}, err
	}
	now := g.Now()
	code, since := own.ReadCode(typed), now.Add(-own.CodeHolds)
	hash, err := g.Store.Pairing(ctx, code, since)
	if errors.Is(err, store.ErrNotFound) {
		return Done{}, ErrCode
	}
	if err != nil {
		return Done{}, err
	}
	// The address stands on the roster first: cut off here, the same code is entered again.
	device, done, err := g.terminalOf(ctx, by, d, before)
	if err != nil {
		return done, err
	}
	err = g.Store.Pair(ctx, code, since, store.KeptPage{
		Person: id, Kind: roster.VehicleTerminal, Device: device, Kept: now,
	}, store.Device{Name: device, Endpoint: own.Endpoint(hash)})
	g.Changed()
	done.Person, done.Said = id, fmt.Sprintf("paired %s", device)
	return done, err
}

// terminalOf is the address of a vehicle terminal of somebody that is not connected; if
// they have none, they get one.
func (g *Editor) terminalOf(
	ctx context.Context, by access.Principal, d View, before *roster.Sheet,
) (string, Done, error) {
	for _, a := range before.Addresses {
		if a.Unconnected() && a.Label == roster.VehicleTerminal {
			return a.Value, Done{}, nil
		}
	}
	device := OwnDevice{Kind: roster.VehicleTerminal}
	nameDevice(d.Roster, before, &device)
	after := before.Clone()
	after.Addresses = append(after.Addresses, roster.Address{
		Channel: roster.Push, Value: device.Name, Label: roster.VehicleTerminal,
	})
	done, _, err := g.apply(ctx, by, &roster.Edit{
		Kind: roster.Changed, Said: "gave " + before.Name() + " a vehicle terminal",
		People: []roster.PersonEdit{{Before: before, After: after}},
	})
	return device.Name, done, err
}
