// Package route is what the routes of every area share: how they are registered
// behind their rights, on whose behalf they are asked, and how they answer.
package route

import (
	"context"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
)

// Route is one operation and the rights of which an account needs one; none
// means that being signed in is enough.
type Route struct {
	huma.Operation
	rights []access.Right
}

// New makes a route whose body only patience bounds in time. The framework's own
// deadline would stay on the connection after the body, and end a request that is
// being worked on.
func New(method, path, id, summary string, rights ...access.Right) Route {
	r := Route{rights: rights, Operation: huma.Operation{
		OperationID: id, Method: method, Path: path, Summary: summary, BodyReadTimeout: -1,
	}}
	if method == http.MethodDelete {
		r.DefaultStatus = http.StatusNoContent
	}
	return r
}

// Handler answers one operation.
type Handler[I, O any] func(ctx context.Context, in *I) (*O, error)

// Get registers a route that reads something, for accounts with one of some rights.
func Get[I, O any](api huma.API, path, id, summary string, h Handler[I, O], rights ...access.Right) {
	Add(api, New(http.MethodGet, path, id, summary, rights...), h)
}

// Post registers a route that does something.
func Post[I, O any](api huma.API, path, id, summary string, h Handler[I, O], rights ...access.Right) {
	Add(api, New(http.MethodPost, path, id, summary, rights...), h)
}

// Put registers a route that changes something.
func Put[I, O any](api huma.API, path, id, summary string, h Handler[I, O], rights ...access.Right) {
	Add(api, New(http.MethodPut, path, id, summary, rights...), h)
}

// Del registers a route that deletes something.
func Del[I, O any](api huma.API, path, id, summary string, h Handler[I, O], rights ...access.Right) {
	Add(api, New(http.MethodDelete, path, id, summary, rights...), h)
}

// Takes lets a route take up to so many bytes.
func (r Route) Takes(bytes int64) Route {
	r.MaxBodyBytes = bytes
	return r
}

// LargestOfStrangers is how many bytes the body of somebody who is not signed in may
// have.
const LargestOfStrangers = 64 << 10

// Small is a route of strangers, who say little.
func (r Route) Small() Route {
	r.MaxBodyBytes = LargestOfStrangers
	return r
}

// Gives lets a route answer with a file.
func (r Route) Gives(mediaType string) Route {
	r.Responses = map[string]*huma.Response{strconv.Itoa(http.StatusOK): {
		Description: "The file",
		Content: map[string]*huma.MediaType{
			mediaType: {Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}},
		},
	}}
	return r
}

// Add registers a route behind its rights.
func Add[I, O any](api huma.API, r Route, h Handler[I, O]) {
	r.Metadata = map[string]any{"rights": r.rights}
	r.Middlewares = append(r.Middlewares, func(ctx huma.Context, next func(huma.Context)) {
		if problem := Refusal(By(ctx.Context()).Grant, r.rights); problem != "" {
			_ = huma.WriteErr(api, ctx, http.StatusForbidden, problem)
			return
		}
		next(ctx)
	})
	huma.Register(api, r.Operation, h)
}

// Refusal says which rights are missing, or "".
func Refusal(g access.Grant, needed []access.Right) string {
	words := make([]string, len(needed))
	for i, right := range needed {
		if g.May(right) {
			return ""
		}
		words[i] = right.Words()
	}
	if len(needed) == 0 {
		return ""
	}
	return "Your account may not " + strings.Join(words, ", nor ") + "."
}
