package route

import (
	"context"
	"fmt"
	"log/slog"
	"mime"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

// Kit is what the routes of every area work with.
type Kit struct {
	Store *store.Store
	Now   func() time.Time
	Log   *slog.Logger
}

// Roster is the roster as far as whoever asks sees it.
func (k Kit) Roster(ctx context.Context) (*roster.Roster, error) {
	return k.Store.RosterWithin(ctx, By(ctx).Scope)
}

type principalKey struct{}

// For keeps with a request on whose behalf it is made.
func For(ctx context.Context, by access.Principal) context.Context {
	return context.WithValue(ctx, principalKey{}, by)
}

// By is on whose behalf a request is made; somebody without any right at the doors
// of strangers.
func By(ctx context.Context) access.Principal {
	by, _ := ctx.Value(principalKey{}).(access.Principal)
	return by
}

type siteKey struct{}

// At keeps with a request where people reach the interface.
func At(ctx context.Context, site string) context.Context {
	return context.WithValue(ctx, siteKey{}, site)
}

// Site is where people reach the interface, such as “https://lantern.example”.
func Site(ctx context.Context) string {
	site, _ := ctx.Value(siteKey{}).(string)
	return site
}

type networkKey struct{}

// From notes the network from which a request comes.
func From(ctx context.Context, network string) context.Context {
	return context.WithValue(ctx, networkKey{}, network)
}

// Network is the network from which a request comes, such as 192.0.2.0/24.
func Network(ctx context.Context) string {
	network, _ := ctx.Value(networkKey{}).(string)
	return network
}

// Body is what a request or an answer holds.
type Body[T any] struct{ Body T }

// Answer is an answer with a body.
func Answer[T any](content T) *Body[T] { return &Body[T]{Body: content} }

// File is an answer that is a file.
type File struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Cache       string `header:"Cache-Control"`
	Body        []byte
}

// Download is a file that a browser saves.
func Download(name string, f exchange.Format, content []byte) *File {
	return &File{
		ContentType: f.MediaType(), Disposition: fmt.Sprintf(`attachment; filename="%s.%s"`, name, f),
		Cache: "no-store", Body: content,
	}
}

// Attached is a file that came from somebody: a browser saves it and never shows it.
func Attached(name string, content []byte) *File {
	return &File{
		ContentType: "application/octet-stream", Cache: "no-store", Body: content,
		Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": name}),
	}
}

// Shown is a file that came from somebody, of a kind that was found by its content. A
// browser may show pictures and play sounds, which run nothing; it saves all else.
func Shown(name, mediaType string, content []byte) *File {
	f := Attached(name, content)
	if strings.HasPrefix(mediaType, "image/") || strings.HasPrefix(mediaType, "audio/") {
		f.ContentType, f.Disposition = mediaType, strings.Replace(f.Disposition, "attachment", "inline", 1)
	}
	return f
}

// Named is something with a number and a name.
type Named struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Made is what was made, or found.
type Made struct {
	ID int64 `json:"id"`
}

// Page is which part of a list is asked for.
type Page struct {
	First int `query:"first" minimum:"0" default:"0" doc:"How many to skip"`
	Count int `query:"count" minimum:"1" maximum:"500" default:"100"`
}

// Window is a page of a list.
func Window[T any](list []T, p Page) []T {
	from := min(p.First, len(list))
	return list[from:min(from+p.Count, len(list))]
}
