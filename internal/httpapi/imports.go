package httpapi

import (
	"context"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/importer"
	"upperlantern/internal/store"
)

const (
	largestFile  = 64 << 20 // bytes
	shownRows    = 8
	shownIssues  = 500
	shownChanges = 200
)

type columnView struct {
	Heading string   `json:"heading"`
	Meaning string   `json:"meaning" doc:"Empty when the column is left aside"`
	First   []string `json:"first" doc:"Its cells in the first rows"`
}

type changeView struct {
	Line    int      `json:"line"`
	Name    string   `json:"name"`
	Changes []string `json:"changes"`
}

type importView struct {
	ID         int64          `json:"id"`
	FileName   string         `json:"fileName"`
	State      string         `json:"state" enum:"proposed,loading,loaded"`
	Result     string         `json:"result" doc:"What loading came to"`
	Done       int            `json:"done"`
	Total      int            `json:"total"`
	Read       string         `json:"read" doc:"How the file was read, in words"`
	Meanings   []string       `json:"meanings" doc:"What a column may mean"`
	Columns    []columnView   `json:"columns"`
	Lines      []int          `json:"lines" doc:"The lines of the first rows"`
	Rows       int            `json:"rows"`
	Added      int            `json:"added"`
	Changed    int            `json:"changed"`
	Unchanged  int            `json:"unchanged"`
	Groups     []string       `json:"groups" doc:"New groups"`
	Changes    []changeView   `json:"changes" doc:"The first people who would change"`
	Refused    []intake.Issue `json:"refused" doc:"Rows that will not load"`
	RefusedAll int            `json:"refusedAll"`
	Noted      []intake.Issue `json:"noted" doc:"Cells that are left off"`
	NotedAll   int            `json:"notedAll"`
	Problem    string         `json:"problem" doc:"Why it cannot be loaded like this"`
}

type ImportID struct {
	ID int64 `path:"id"`
}

func (s *server) importRoutes(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "add-import", Method: http.MethodPost, Path: "/imports", Summary: "Give a roster file; nothing is loaded yet",
		MaxBodyBytes: largestFile, BodyReadTimeout: -1,
	}, s.addImport)
	huma.Register(api, huma.Operation{OperationID: "import", Method: http.MethodGet, Path: "/imports/{id}", Summary: "What loading a file would do"}, s.importByID)
	huma.Register(api, huma.Operation{
		OperationID: "map-import", Method: http.MethodPut, Path: "/imports/{id}/columns", Summary: "Say what the columns mean",
	}, s.mapImport)
	huma.Register(api, huma.Operation{
		OperationID: "load-import", Method: http.MethodPost, Path: "/imports/{id}/load", Summary: "Load a file", DefaultStatus: http.StatusAccepted,
	}, s.loadImport)
}

func (s *server) addImport(ctx context.Context, in *struct {
	Name    string `query:"name" required:"true" maxLength:"300" doc:"The file's name"`
	RawBody []byte `contentType:"text/csv"`
}) (*body[importView], error) {
	id, err := s.Importer.Add(ctx, accountOf(ctx).ID, in.Name, in.RawBody)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.importByID(ctx, &ImportID{id})
}

func (s *server) importByID(ctx context.Context, in *ImportID) (*body[importView], error) {
	u, err := s.Importer.Understand(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[importView]{viewImport(u, s.Importer.Progress(in.ID))}, nil
}

func (s *server) mapImport(ctx context.Context, in *struct {
	ImportID
	Body struct {
		Meanings []intake.Column `json:"meanings" maxItems:"500"`
	}
}) (*body[importView], error) {
	for _, c := range in.Body.Meanings {
		if c != intake.Ignored && !slices.Contains(intake.Columns, c) {
			return nil, huma.Error422UnprocessableEntity("There is no column meaning “" + string(c) + "”.")
		}
	}
	if err := s.Store.SetMapping(ctx, in.ID, in.Body.Meanings); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.importByID(ctx, &in.ImportID)
}

// loadImport answers at once; events tell how it goes.
func (s *server) loadImport(ctx context.Context, in *ImportID) (*body[importView], error) {
	if err := s.Importer.Start(ctx, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	background := context.WithoutCancel(ctx)
	go func() {
		if _, err := s.Importer.Finish(background, in.ID); err != nil {
			s.Log.ErrorContext(background, "loading a file", "import", in.ID, "error", err)
		}
	}()
	i, err := s.Store.Import(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[importView]{viewImport(importer.Understood{Import: i}, importer.Progress{})}, nil
}

func viewImport(u importer.Understood, progress importer.Progress) importView {
	v := importView{
		ID: u.Import.ID, FileName: u.Import.FileName, State: string(u.Import.State), Result: u.Import.Result,
		Done: progress.Done, Total: progress.Total, Meanings: []string{}, Columns: []columnView{}, Lines: []int{},
		Groups: []string{}, Changes: []changeView{}, Refused: []intake.Issue{}, Noted: []intake.Issue{},
	}
	if u.Import.State != store.ImportProposed || u.Table == nil {
		return v
	}
	for _, c := range intake.Columns {
		v.Meanings = append(v.Meanings, string(c))
	}
	v.Read = u.Table.Describe()
	v.Rows = len(u.Table.Rows)
	first := u.Table.Rows[:min(shownRows, len(u.Table.Rows))]
	for i, heading := range u.Table.Header {
		column := columnView{Heading: heading, First: []string{}}
		if i < len(u.Import.Mapping) {
			column.Meaning = string(u.Import.Mapping[i])
		}
		for _, row := range first {
			cell := ""
			if i < len(row.Cells) {
				cell = row.Cells[i]
			}
			column.First = append(column.First, shorten(cell))
		}
		v.Columns = append(v.Columns, column)
	}
	for _, row := range first {
		v.Lines = append(v.Lines, row.Line)
	}
	if u.Problem != nil {
		v.Problem = sentence(u.Problem)
		return v
	}
	viewProposal(&v, u.Proposal)
	return v
}

func viewProposal(v *importView, p *intake.Proposal) {
	v.Added, v.Changed, v.Unchanged = p.Added, p.Changed, p.Unchanged
	v.Groups = append(v.Groups, p.Groups...)
	v.Refused, v.RefusedAll = append(v.Refused, p.Refused[:min(shownIssues, len(p.Refused))]...), len(p.Refused)
	v.Noted, v.NotedAll = append(v.Noted, p.Noted[:min(shownIssues, len(p.Noted))]...), len(p.Noted)
	for _, e := range p.Entries {
		if len(e.Changes) > 0 && len(v.Changes) < shownChanges {
			v.Changes = append(v.Changes, changeView{e.Line, e.Person.Name(), e.Changes})
		}
	}
}

func shorten(cell string) string {
	if r := []rune(cell); len(r) > 80 {
		return string(r[:80]) + "…"
	}
	return cell
}
