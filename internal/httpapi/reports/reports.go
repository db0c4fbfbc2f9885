// Package reports is the routes of reports, run and kept by name, and of files that are
// written of them, of messages and of records.
package reports

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/report"
	"upperlantern/internal/exporting"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/reporting"
)

// Area is what these routes work with.
type Area struct {
	route.Kit
	Reporting *reporting.Service
	Exporting *exporting.Service
}

// Routes registers the routes.
func (s *Area) Routes(api huma.API) {
	route.Add(api, route.New(
		http.MethodPost, "/reports/run", "run-report", "What messages came to, as a table", access.RunReports,
	).Small(), s.run)
	route.Get(api, "/reports", "reports", "What reports there are, and those kept by name", s.kept, access.RunReports)
	route.Post(
		api, "/reports", "keep-report", "Keep a report, over one of one's own with the same name", s.keep, access.RunReports,
	)
	s.exportRoutes(api)
	route.Del(api, "/reports/{id}", "drop-report", "Forget a kept report", s.drop, access.RunReports)
}

func (s *Area) run(ctx context.Context, in *struct{ Body report.Ask }) (*route.Body[report.Table], error) {
	t, err := s.Reporting.Run(ctx, route.By(ctx), in.Body)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	t.About, t.Notes = append([]string{}, t.About...), append([]string{}, t.Notes...)
	t.Rows = append([]report.Row{}, t.Rows...)
	return route.Answer(t), nil
}

type reportKind struct {
	By    report.By `json:"by"`
	Title string    `json:"title"`
}

type keptReport struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name"`
	Own     bool       `json:"own" doc:"The account kept it"`
	Ask     report.Ask `json:"ask"`
	Readers []int64    `json:"readers" doc:"The accounts to which it is mailed each month"`
}

type reportReader struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type reportsView struct {
	Kinds   []reportKind   `json:"kinds"`
	Kept    []keptReport   `json:"kept"`
	Readers []reportReader `json:"readers" doc:"To whom reports can be mailed"`
}

func (s *Area) kept(ctx context.Context, _ *struct{}) (*route.Body[reportsView], error) {
	kept, err := s.Reporting.Kept(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	readers, err := s.Reporting.Readers(ctx, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := reportsView{Kept: make([]keptReport, len(kept)), Readers: make([]reportReader, len(readers))}
	for _, by := range report.Bys {
		v.Kinds = append(v.Kinds, reportKind{by, by.Title()})
	}
	for i, k := range kept {
		v.Kept[i] = keptReport{k.ID, k.Name, k.Owner == route.By(ctx).ID, k.Ask, append([]int64{}, k.Readers...)}
	}
	for i, a := range readers {
		v.Readers[i] = reportReader{a.ID, a.Name}
	}
	return route.Answer(v), nil
}

func (s *Area) keep(ctx context.Context, in *struct {
	Body struct {
		Name    string     `json:"name" minLength:"1" maxLength:"100"`
		Ask     report.Ask `json:"ask"`
		Readers []int64    `json:"readers,omitempty" maxItems:"50" doc:"Accounts that may run reports"`
	}
}) (*route.Body[keptReport], error) {
	k, err := s.Reporting.Keep(ctx, route.By(ctx), in.Body.Name, in.Body.Ask, in.Body.Readers)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(keptReport{k.ID, k.Name, true, k.Ask, append([]int64{}, k.Readers...)}), nil
}

func (s *Area) drop(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Reporting.Drop(ctx, route.By(ctx), in.ID))
}
