package reports

import (
	"context"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/exchange"
	"upperlantern/internal/exporting"
	"upperlantern/internal/httpapi/route"
)

// exportRoutes are open to whoever sees something that can be written; what it may see
// is looked at when a file is begun.
func (s *Area) exportRoutes(api huma.API) {
	rights := []access.Right{access.RunReports, access.ReadRecords, access.Write}
	route.Add(api, route.New(
		http.MethodPost, "/exports", "write-file", "Begin to write a report, messages or a record to a file", rights...,
	).Small(), s.begin)
	route.Get(api, "/exports/{id}", "written-file", "How far a file is", s.far, rights...)
	route.Del(api, "/exports/{id}", "give-up-file", "Give up a file, written or not", s.giveUp, rights...)
	route.Add(api, route.New(
		http.MethodGet, "/exports/{id}/content", "written-content", "A file that was written", rights...,
	).Gives("application/octet-stream"), s.content)
}

type fileID struct {
	ID string `path:"id" maxLength:"40"`
}

func (s *Area) begin(ctx context.Context, in *struct {
	Body struct {
		exporting.What
		Format exchange.Format `json:"format" enum:"csv,xlsx,pdf,html"`
	}
}) (*route.Body[exporting.State], error) {
	state, err := s.Exporting.Start(ctx, route.By(ctx), in.Body.What, in.Body.Format)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(state), nil
}

func (s *Area) far(ctx context.Context, in *fileID) (*route.Body[exporting.State], error) {
	state, err := s.Exporting.State(route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(state), nil
}

func (s *Area) giveUp(ctx context.Context, in *fileID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Exporting.Drop(route.By(ctx), in.ID))
}

func (s *Area) content(ctx context.Context, in *fileID) (*huma.StreamResponse, error) {
	file, state, err := s.Exporting.Open(route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		defer file.Close() //nolint:errcheck // it was only read
		if info, err := file.Stat(); err == nil {
			hc.SetHeader("Content-Length", strconv.FormatInt(info.Size(), 10))
		}
		hc.SetHeader("Content-Type", state.Format.MediaType())
		hc.SetHeader("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": state.Name}))
		hc.SetHeader("Cache-Control", "no-store")
		if _, err := io.Copy(hc.BodyWriter(), file); err != nil && ctx.Err() == nil {
			s.Log.WarnContext(ctx, "sending a file", "file", state.Name, "error", fmt.Sprint(err))
		}
	}}, nil
}
