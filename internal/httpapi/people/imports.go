package people

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
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
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
	ID         int64              `json:"id"`
	FileName   string             `json:"fileName"`
	State      store.ImportState  `json:"state"`
	Result     string             `json:"result" doc:"What loading came to"`
	Edit       int64              `json:"edit" doc:"To undo it by, once it is loaded"`
	Done       int                `json:"done"`
	Total      int                `json:"total"`
	Read       string             `json:"read" doc:"How the file was read, in words"`
	Mapping    string             `json:"mapping" doc:"The kept mapping that fits the file, if one does"`
	Unit       roster.UnitID      `json:"unit" doc:"Where new people belong whose row names none"`
	MarkLeft   bool               `json:"markLeft" doc:"Mark as left who is missing from the file"`
	Meanings   []intake.Column    `json:"meanings" doc:"What a column may mean"`
	Columns    []columnView       `json:"columns"`
	Places     []intake.Place     `json:"places" doc:"Where the first rows stand"`
	Rows       int                `json:"rows"`
	Added      int                `json:"added"`
	Changed    int                `json:"changed"`
	Unchanged  int                `json:"unchanged"`
	New        []view.NamedPerson `json:"new" doc:"The first people who would be added"`
	Groups     []string           `json:"groups" doc:"New groups"`
	Changes    []changeView       `json:"changes" doc:"The first people who would change"`
	Missing    []view.NamedPerson `json:"missing" doc:"The first people who could be expected in the file and are not in it"`
	MissingAll int                `json:"missingAll"`
	Refused    []intake.Issue     `json:"refused" doc:"Rows that will not load"`
	RefusedAll int                `json:"refusedAll"`
	Noted      []intake.Issue     `json:"noted" doc:"Cells that are left off"`
	NotedAll   int                `json:"notedAll"`
	BarsKept   int                `json:"barsKept" doc:"Barred contacts that the file has as receiving, and that stay barred"`
	Problem    string             `json:"problem" doc:"Why it cannot be loaded like this"`

	Reading   intake.Reading        `json:"reading" doc:"What was said about how the file is read"`
	Encoding  string                `json:"encoding" doc:"In which a text was read; empty for other files"`
	Encodings []string              `json:"encodings" doc:"In which a text can be read"`
	Heading   int                   `json:"heading" doc:"The line of the headings"`
	Top       []topView             `json:"top" doc:"The first lines, one of which has the headings"`
	Questions []intake.FileQuestion `json:"questions" doc:"To be answered before the file is loaded"`
	Units     []string              `json:"units" doc:"Names that the file has for units which there are not"`
}

type topView struct {
	Line  int    `json:"line"`
	Words string `json:"words" doc:"What stands in it, shortened"`
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

func (s *Area) importRoutes(api huma.API) {
	route.Add(
		api,
		route.New(http.MethodPost, "/imports", "add-import", "Give a roster file; nothing is loaded yet", access.EditPeople).Takes(largestFile),
		s.addImport,
	)
	route.Get(
		api, "/imports/last", "last-import", "The newest import that can be undone",
		s.lastImport, access.EditPeople,
	)
	route.Get(api, "/imports/{id}", "import", "What loading a file would do", s.importByID, access.EditPeople)
	route.Put(
		api, "/imports/{id}", "map-import", "Say what the columns mean, and what becomes of who is missing",
		s.mapImport, access.EditPeople,
	)
	route.Post(
		api, "/imports/{id}/units", "make-units", "Make units of the names that a file has for them", s.makeUnits,
		access.EditPeople, access.ChangeSettings,
	)
	load := route.New(http.MethodPost, "/imports/{id}/load", "load-import", "Load a file", access.EditPeople)
	load.DefaultStatus = http.StatusAccepted
	route.Add(api, load, s.loadImport)
	route.Get(
		api, "/imports/{id}/refused", "refused", "The rows that will not load, as CSV with a reason",
		s.refused, access.EditPeople,
	)
	route.Post(
		api, "/imports/{id}/mapping", "keep-mapping", "Keep how the columns are understood under a name",
		s.keepMapping, access.EditPeople,
	)
	route.Get(api, "/mappings", "mappings", "Mappings that were kept", s.mappings, access.EditPeople)
	route.Del(api, "/mappings/{id}", "drop-mapping", "Forget a mapping", s.dropMapping, access.EditPeople)
}

func (s *Area) addImport(ctx context.Context, in *struct {
	Name    string `query:"name" required:"true" maxLength:"300" doc:"The file's name"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[importView], error) {
	id, err := s.Importer.Add(ctx, route.By(ctx), in.Name, in.RawBody)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.importByID(ctx, &ImportID{ID: id})
}

func (s *Area) lastImport(ctx context.Context, _ *struct{}) (*route.Body[lastImportView], error) {
	last, err := s.Importer.Last(ctx, route.By(ctx))
	if errors.Is(err, store.ErrNotFound) {
		return route.Answer(lastImportView{}), nil
	}
	return route.Answer(lastImportView{
		ID: last.ID, FileName: last.FileName, Result: last.Result, Edit: last.Edit, By: last.By, At: last.At,
	}), s.Problem(ctx, err)
}

func (s *Area) importByID(ctx context.Context, in *ImportID) (*route.Body[importView], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	u, err := s.Importer.Understand(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewImport(r, u, s.Importer.Progress(in.ID))), nil
}

func (s *Area) mapImport(ctx context.Context, in *struct {
	ImportID
	Body struct {
		Meanings []intake.Column `json:"meanings" maxItems:"500"`
		MarkLeft bool            `json:"markLeft"`
		Unit     roster.UnitID   `json:"unit" doc:"0 for none"`
		Reading  intake.Reading  `json:"reading,omitempty" doc:"How the file is read"`
	}
}) (*route.Body[importView], error) {
	if err := s.Importer.Map(ctx, route.By(ctx), store.Import{
		ID: in.ID, Mapping: in.Body.Meanings, MarkLeft: in.Body.MarkLeft, Unit: in.Body.Unit,
		Reading: in.Body.Reading,
	}); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.importByID(ctx, &in.ImportID)
}

// makeUnits needs the right to change settings, which units are part of.
func (s *Area) makeUnits(ctx context.Context, in *ImportID) (*route.Body[importView], error) {
	if by := route.By(ctx); !by.Scope.Whole || !by.May(access.ChangeSettings) || !by.May(access.EditPeople) {
		return nil, huma.Error403Forbidden(
			"Units are made by accounts that may edit people and change settings of the whole organisation.",
		)
	}
	if _, err := s.Importer.MakeUnits(ctx, route.By(ctx), in.ID, s.Editor); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.importByID(ctx, in)
}

// loadImport answers at once; events tell how it goes.
func (s *Area) loadImport(ctx context.Context, in *ImportID) (*route.Body[importView], error) {
	i, err := s.Importer.Begin(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewImport(nil, importer.Understood{Import: i}, importer.Progress{})), nil
}

func (s *Area) refused(ctx context.Context, in *ImportID) (*route.File, error) {
	u, err := s.Importer.Understand(ctx, route.By(ctx), in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	header, rows := u.RefusedRows()
	content, err := exchange.Write(exchange.CSV, "", header, rows)
	return route.Download("not loaded", exchange.CSV, content), s.Problem(ctx, err)
}

func (s *Area) keepMapping(ctx context.Context, in *struct {
	ImportID
	Body struct {
		Name string `json:"name" minLength:"1" maxLength:"100"`
	}
}) (*route.Body[importView], error) {
	if err := s.Importer.KeepMapping(ctx, route.By(ctx), in.ID, strings.TrimSpace(in.Body.Name)); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.importByID(ctx, &in.ImportID)
}

func (s *Area) mappings(ctx context.Context, _ *struct{}) (*route.Body[[]mappingView], error) {
	list, err := s.Store.Mappings(ctx)
	out := []mappingView{}
	for _, m := range list {
		out = append(out, mappingView{ID: m.ID, Name: m.Name, Columns: len(m.Columns)})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) dropMapping(ctx context.Context, in *ImportID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.DropMapping(ctx, route.By(ctx), in.ID))
}

func viewImport(r *roster.Roster, u importer.Understood, progress importer.Progress) importView {
	v := importView{
		ID: u.Import.ID, FileName: u.Import.FileName, State: u.Import.State, Result: u.Import.Result,
		Edit: u.Import.Edit,
		Done: progress.Done, Total: progress.Total, Meanings: []intake.Column{}, Columns: []columnView{},
		Places:  []intake.Place{},
		Mapping: u.Mapping, Unit: u.Import.Unit, MarkLeft: u.Import.MarkLeft, New: []view.NamedPerson{},
		Missing: []view.NamedPerson{},
		Groups:  []string{}, Changes: []changeView{}, Refused: []intake.Issue{}, Noted: []intake.Issue{},
		Reading: u.Import.Reading, Encodings: []string{}, Top: []topView{}, Questions: []intake.FileQuestion{},
		Units: []string{},
	}
	if u.Import.State != store.ImportProposed || u.Table == nil {
		return v
	}
	v.Meanings = intake.MeaningsFor(r)
	v.Read = u.Table.Describe()
	v.Rows = len(u.Table.Rows)
	v.Heading, v.Encoding = u.Table.Heading, u.Table.Encoding
	if v.Encoding != "" {
		v.Encodings = exchange.Encodings()
	}
	for _, row := range u.Table.Top {
		v.Top = append(v.Top, topView{row.Line, shorten(strings.Join(slices.DeleteFunc(
			slices.Clone(row.Cells), func(c string) bool { return strings.TrimSpace(c) == "" },
		), " · "))})
	}
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
		v.Problem = route.Sentence(u.Problem)
	}
	viewProposal(&v, u.Proposal)
	return v
}

func viewProposal(v *importView, p *intake.Proposal) {
	v.Questions, v.Units = append(v.Questions, p.Questions...), append(v.Units, p.Units...)
	v.Added, v.Changed, v.Unchanged, v.BarsKept = p.Added, p.Changed, p.Unchanged, p.BarsKept
	for _, g := range p.Groups {
		v.Groups = append(v.Groups, g.Name)
	}
	v.Refused, v.RefusedAll = append(v.Refused, p.Refused[:min(shownIssues, len(p.Refused))]...), len(p.Refused)
	v.Noted, v.NotedAll = append(v.Noted, p.Noted[:min(shownIssues, len(p.Noted))]...), len(p.Noted)
	for _, e := range p.Entries {
		switch {
		case e.Added() && len(v.New) < shownChanges:
			added := view.Name(&e.After.Person)
			added.ID = 0 // it has none yet
			v.New = append(v.New, added)
		case len(e.Changes) > 0 && len(v.Changes) < shownChanges:
			v.Changes = append(
				v.Changes,
				changeView{Place: e.Place, Person: e.After.ID, Name: e.After.Name(), Changes: e.Changes},
			)
		}
	}
	v.MissingAll = len(p.Missing)
	for _, m := range p.Missing[:min(shownChanges, len(p.Missing))] {
		v.Missing = append(v.Missing, view.Name(&m.Person))
	}
}

func shorten(cell string) string {
	if r := []rune(cell); len(r) > 80 {
		return string(r[:80]) + "…"
	}
	return cell
}
