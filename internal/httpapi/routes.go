package httpapi

import (
	"context"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
)

// route is one operation and the rights of which an account needs one; none
// means that being signed in is enough.
type route struct {
	huma.Operation
	rights []access.Right
}

// newRoute makes a route whose body only patience bounds in time. The framework's
// own deadline would stay on the connection after the body, and end a request
// that is being worked on.
func newRoute(method, path, id, summary string, rights []access.Right) route {
	return route{
		huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, BodyReadTimeout: -1}, rights,
	}
}

func get(path, id, summary string, rights ...access.Right) route {
	return newRoute(http.MethodGet, path, id, summary, rights)
}

func post(path, id, summary string, rights ...access.Right) route {
	return newRoute(http.MethodPost, path, id, summary, rights)
}

func put(path, id, summary string, rights ...access.Right) route {
	return newRoute(http.MethodPut, path, id, summary, rights)
}

func del(path, id, summary string, rights ...access.Right) route {
	r := newRoute(http.MethodDelete, path, id, summary, rights)
	r.DefaultStatus = http.StatusNoContent
	return r
}

// takes lets a route take up to so many bytes.
func (r route) takes(bytes int64) route {
	r.MaxBodyBytes = bytes
	return r
}

// small is a route of strangers, who say little.
func (r route) small() route {
	r.MaxBodyBytes = largestOfOther
	return r
}

// gives lets a route answer with a file.
func (r route) gives(mediaType string) route {
	r.Responses = map[string]*huma.Response{strconv.Itoa(http.StatusOK): {
		Description: "The file",
		Content:     map[string]*huma.MediaType{mediaType: {Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}},
	}}
	return r
}

// add registers a route behind its rights.
func add[I, O any](api huma.API, r route, handler func(context.Context, *I) (*O, error)) {
	r.Metadata = map[string]any{"rights": r.rights}
	r.Middlewares = append(r.Middlewares, func(ctx huma.Context, next func(huma.Context)) {
		if problem := refusal(accountOf(ctx.Context()).Grant, r.rights); problem != "" {
			_ = huma.WriteErr(api, ctx, http.StatusForbidden, problem)
			return
		}
		next(ctx)
	})
	huma.Register(api, r.Operation, handler)
}

// refusal says which rights are missing, or "".
func refusal(g access.Grant, needed []access.Right) string {
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
