package httpapi

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
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
	intake.Place
	Person  roster.PersonID `json:"person"`
	Name    string          `json:"name"`
	Changes []roster.Change `json:"changes"`
}

type importView struct {
	ID         int64           `json:"id"`
	FileName   string          `json:"fileName"`
	State      string          `json:"state" enum:"proposed,loading,loaded"`
	Result     string          `json:"result" doc:"What loading came to"`
	Edit       int64           `json:"edit" doc:"To undo it by, once it is loaded"`
	Done       int             `json:"done"`
	Total      int             `json:"total"`
	Read       string          `json:"read" doc:"How the file was read, in words"`
	Mapping    string          `json:"mapping" doc:"The kept mapping that fits the file, if one does"`
	Unit       roster.UnitID   `json:"unit" doc:"Where new people belong whose row names none"`
	MarkLeft   bool            `json:"markLeft" doc:"Mark as left who is missing from the file"`
	Meanings   []intake.Column `json:"meanings" doc:"What a column may mean"`
	Columns    []columnView    `json:"columns"`
	Places     []intake.Place  `json:"places" doc:"Where the first rows stand"`
	Rows       int             `json:"rows"`
	Added      int             `json:"added"`
	Changed    int             `json:"changed"`
	Unchanged  int             `json:"unchanged"`
	New        []namedPerson   `json:"new" doc:"The first people who would be added"`
	Groups     []string        `json:"groups" doc:"New groups"`
	Changes    []changeView    `json:"changes" doc:"The first people who would change"`
	Missing    []namedPerson   `json:"missing" doc:"The first people who could be expected in the file and are not in it"`
	MissingAll int             `json:"missingAll"`
	Refused    []intake.Issue  `json:"refused" doc:"Rows that will not load"`
	RefusedAll int             `json:"refusedAll"`
	Noted      []intake.Issue  `json:"noted" doc:"Cells that are left off"`
	NotedAll   int             `json:"notedAll"`
	BarsKept   int             `json:"barsKept" doc:"Barred contacts that the file has as receiving, and that stay barred"`
	Problem    string          `json:"problem" doc:"Why it cannot be loaded like this"`
}

type ImportID struct {
	ID int64 `path:"id"`
}

type mappingView struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Columns int    `json:"columns"`
}

type lastImportView struct {
	ID       int64     `json:"id" doc:"0 when there is none that could be undone"`
	FileName string    `json:"fileName"`
	Result   string    `json:"result"`
	Edit     int64     `json:"edit"`
	By       string    `json:"by"`
	At       time.Time `json:"at"`
}

func (s *server) importRoutes(api huma.API) {
	add(
		api,
		post("/imports", "add-import", "Give a roster file; nothing is loaded yet", access.EditPeople).takes(largestFile),
		s.addImport,
	)
	add(api, get("/imports/last", "last-import", "The newest import that can be undone", access.EditPeople), s.lastImport)
	add(api, get("/imports/{id}", "import", "What loading a file would do", access.EditPeople), s.importByID)
	add(
		api,
		put(
			"/imports/{id}", "map-import", "Say what the columns mean, and what becomes of who is missing", access.EditPeople,
		),
		s.mapImport,
	)
	load := post("/imports/{id}/load", "load-import", "Load a file", access.EditPeople)
	load.DefaultStatus = http.StatusAccepted
	add(api, load, s.loadImport)
	add(
		api, get("/imports/{id}/refused", "refused", "The rows that will not load, as CSV with a reason", access.EditPeople),
		s.refused,
	)
	add(
		api,
		post("/imports/{id}/mapping", "keep-mapping", "Keep how the columns are understood under a name", access.EditPeople),
		s.keepMapping,
	)
	add(api, get("/mappings", "mappings", "Mappings that were kept", access.EditPeople), s.mappings)
	add(api, del("/mappings/{id}", "drop-mapping", "Forget a mapping", access.EditPeople), s.dropMapping)
}

// importOf checks that an import is the account's own, or that the account
// reaches the whole organisation.
func (s *server) importOf(ctx context.Context, id int64) error {
	i, err := s.Store.Import(ctx, id)
	if err != nil {
		return s.problem(ctx, err)
	}
	if account := accountOf(ctx); i.Account != account.ID && !account.Scope.Whole {
		return s.problem(ctx, store.ErrNotFound)
	}
	return nil
}

func (s *server) addImport(ctx context.Context, in *struct {
	Name    string `query:"name" required:"true" maxLength:"300" doc:"The file's name"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*body[importView], error) {
	id, err := s.Importer.Add(ctx, accountOf(ctx), in.Name, in.RawBody)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.importByID(ctx, &ImportID{id})
}

func (s *server) lastImport(ctx context.Context, _ *struct{}) (*body[lastImportView], error) {
	last, err := s.Store.LastImport(ctx)
	if errors.Is(err, store.ErrNotFound) || err == nil && s.importOf(ctx, last.ID) != nil {
		return &body[lastImportView]{}, nil
	}
	return &body[lastImportView]{
		lastImportView{last.ID, last.FileName, last.Result, last.Edit, last.By, last.At},
	}, s.problem(ctx, err)
}

func (s *server) importByID(ctx context.Context, in *ImportID) (*body[importView], error) {
	if err := s.importOf(ctx, in.ID); err != nil {
		return nil, err
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	u, err := s.Importer.Understand(ctx, accountOf(ctx), in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[importView]{viewImport(r, u, s.Importer.Progress(in.ID))}, nil
}

func (s *server) mapImport(ctx context.Context, in *struct {
	ImportID
	Body struct {
		Meanings []intake.Column `json:"meanings" maxItems:"500"`
		MarkLeft bool            `json:"markLeft"`
		Unit     roster.UnitID   `json:"unit" doc:"0 for none"`
	}
}) (*body[importView], error) {
	if err := s.importOf(ctx, in.ID); err != nil {
		return nil, err
	}
	r, err := s.roster(ctx)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	possible := intake.ColumnsFor(r)
	for _, c := range in.Body.Meanings {
		if c != intake.Ignored && !slices.Contains(possible, c) {
			return nil, huma.Error422UnprocessableEntity("There is no column meaning “" + string(c) + "”.")
		}
	}
	if unit := in.Body.Unit; unit != 0 && r.UnitPath(unit) == "" || unit == 0 && !accountOf(ctx).Scope.Whole {
		return nil, huma.Error422UnprocessableEntity("Choose one of your units for the new people.")
	}
	if err := s.Store.SetImport(ctx, store.Import{
		ID: in.ID, Mapping: in.Body.Meanings, MarkLeft: in.Body.MarkLeft, Unit: in.Body.Unit,
	}); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.importByID(ctx, &in.ImportID)
}

// loadImport answers at once; events tell how it goes.
func (s *server) loadImport(ctx context.Context, in *ImportID) (*body[importView], error) {
	if err := s.importOf(ctx, in.ID); err != nil {
		return nil, err
	}
	account := accountOf(ctx)
	if err := s.Importer.Start(ctx, account, in.ID); err != nil {
		return nil, s.problem(ctx, err)
	}
	background := context.WithoutCancel(ctx)
	go func() {
		if _, err := s.Importer.Finish(background, account, in.ID); err != nil {
			s.Log.ErrorContext(background, "loading a file", "import", in.ID, "error", err)
		}
	}()
	i, err := s.Store.Import(ctx, in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	return &body[importView]{viewImport(nil, importer.Understood{Import: i}, importer.Progress{})}, nil
}

func (s *server) refused(ctx context.Context, in *ImportID) (*file, error) {
	if err := s.importOf(ctx, in.ID); err != nil {
		return nil, err
	}
	u, err := s.Importer.Understand(ctx, accountOf(ctx), in.ID)
	if err != nil {
		return nil, s.problem(ctx, err)
	}
	header, rows := u.RefusedRows()
	content, err := exchange.Write(exchange.CSV, "", header, rows)
	return download("not loaded", exchange.CSV, content), s.problem(ctx, err)
}

func (s *server) keepMapping(ctx context.Context, in *struct {
	ImportID
	Body struct {
		Name string `json:"name" minLength:"1" maxLength:"100"`
	}
}) (*body[importView], error) {
	if err := s.importOf(ctx, in.ID); err != nil {
		return nil, err
	}
	if err := s.Importer.KeepMapping(ctx, accountOf(ctx), in.ID, strings.TrimSpace(in.Body.Name)); err != nil {
		return nil, s.problem(ctx, err)
	}
	return s.importByID(ctx, &in.ImportID)
}

func (s *server) mappings(ctx context.Context, _ *struct{}) (*body[[]mappingView], error) {
	list, err := s.Store.Mappings(ctx)
	out := []mappingView{}
	for _, m := range list {
		out = append(out, mappingView{m.ID, m.Name, len(m.Columns)})
	}
	return &body[[]mappingView]{out}, s.problem(ctx, err)
}

func (s *server) dropMapping(ctx context.Context, in *ImportID) (*struct{}, error) {
	return nil, s.problem(ctx, s.Editor.DropMapping(ctx, accountOf(ctx), in.ID))
}

func viewImport(r *roster.Roster, u importer.Understood, progress importer.Progress) importView {
	v := importView{
		ID: u.Import.ID, FileName: u.Import.FileName, State: string(u.Import.State), Result: u.Import.Result,
		Edit: u.Import.Edit,
		Done: progress.Done, Total: progress.Total, Meanings: []intake.Column{}, Columns: []columnView{},
		Places:  []intake.Place{},
		Mapping: u.Mapping, Unit: u.Import.Unit, MarkLeft: u.Import.MarkLeft, New: []namedPerson{}, Missing: []namedPerson{},
		Groups: []string{}, Changes: []changeView{}, Refused: []intake.Issue{}, Noted: []intake.Issue{},
	}
	if u.Import.State != store.ImportProposed || u.Table == nil {
		return v
	}
	v.Meanings = intake.ColumnsFor(r)
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
		v.Places = append(v.Places, row.Place)
	}
	if u.Problem != nil {
		v.Problem = sentence(u.Problem)
	}
	viewProposal(&v, u.Proposal)
	return v
}

func viewProposal(v *importView, p *intake.Proposal) {
	v.Added, v.Changed, v.Unchanged, v.BarsKept = p.Added, p.Changed, p.Unchanged, p.BarsKept
	for _, g := range p.Groups {
		v.Groups = append(v.Groups, g.Name)
	}
	v.Refused, v.RefusedAll = append(v.Refused, p.Refused[:min(shownIssues, len(p.Refused))]...), len(p.Refused)
	v.Noted, v.NotedAll = append(v.Noted, p.Noted[:min(shownIssues, len(p.Noted))]...), len(p.Noted)
	for _, e := range p.Entries {
		switch {
		case e.Added() && len(v.New) < shownChanges:
			v.New = append(v.New, namedPerson{0, e.After.Name(), personNote(&e.After.Person)})
		case len(e.Changes) > 0 && len(v.Changes) < shownChanges:
			v.Changes = append(v.Changes, changeView{e.Place, e.After.ID, e.After.Name(), e.Changes})
		}
	}
	v.MissingAll = len(p.Missing)
	for _, m := range p.Missing[:min(shownChanges, len(p.Missing))] {
		v.Missing = append(v.Missing, namedPerson{m.ID, m.Name(), personNote(&m.Person)})
	}
}

func shorten(cell string) string {
	if r := []rune(cell); len(r) > 80 {
		return string(r[:80]) + "…"
	}
	return cell
}
