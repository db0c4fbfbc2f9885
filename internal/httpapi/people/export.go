package people

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/httpapi/route"
)

func (s *Area) exportRoutes(api huma.API) {
	r := route.New(http.MethodPost, "/export", "export", "A list as a file", access.SeePeople, access.EditPeople).Takes(mostPeople)
	route.Add(api, r.Gives("application/octet-stream"), s.export)
	route.Get(
		api, "/export/columns", "export-columns", "Columns that people can be written with",
		s.exportColumns, access.SeePeople, access.EditPeople,
	)
}

func (s *Area) exportColumns(ctx context.Context, _ *struct{}) (*route.Body[[]intake.Column], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(intake.ColumnsFor(r)), nil
}

func (s *Area) export(ctx context.Context, in *struct {
	Body struct {
		Chosen
		What    string          `json:"what" enum:"people,groups,addresses"`
		Format  exchange.Format `json:"format" enum:"csv,xlsx,vcf"`
		Columns []intake.Column `json:"columns" maxItems:"200" doc:"Of people; none for all"`
	}
}) (*route.File, error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	if in.Body.Format == exchange.VCard && in.Body.What != "people" {
		return nil, huma.Error422UnprocessableEntity("vCard has people only; choose CSV or XLSX.")
	}
	var content []byte
	switch in.Body.What {
	case "people":
		known := intake.ColumnsFor(r)
		columns := in.Body.Columns
		if i := slices.IndexFunc(columns, func(c intake.Column) bool { return !slices.Contains(known, c) }); i >= 0 {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("There is no column %q; nothing was written.", columns[i]))
		}
		if len(columns) == 0 {
			columns = known
		}
		var rows [][]string
		for _, id := range in.Body.People {
			if sheet := r.Sheet(id); sheet != nil {
				rows = append(rows, intake.Cells(r, sheet, columns))
			}
		}
		content, err = exchange.WritePeople(in.Body.Format, columns, rows)
	case "groups":
		header, rows := groupRows(r)
		content, err = exchange.Write(in.Body.Format, "Groups", header, rows)
	default:
		header, rows := addressRows(r, in.Body.People)
		content, err = exchange.Write(in.Body.Format, "Addresses", header, rows)
	}
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Download(in.Body.What+" "+s.Now().Format(time.DateOnly), in.Body.Format, content), nil
}

func groupRows(r *roster.Roster) (header []string, rows [][]string) {
	header = []string{
		"Group", "Kind", "Inside", "Unit", "Own people", "People", "Rule", "Sender name", "Text number", "Caller number",
	}
	for _, v := range groupTree(r) {
		rows = append(rows, []string{
			v.Name, string(v.Kind), joined(v.Within), v.UnitPath, strconv.Itoa(v.Own), strconv.Itoa(v.People), joined(v.Words),
			v.Identity.Name, phone.Display(v.Identity.Number), phone.Display(v.Identity.Caller),
		})
	}
	return header, rows
}

func joined(words []string) string { return strings.Join(words, "; ") }

func addressRows(r *roster.Roster, people []roster.PersonID) (header []string, rows [][]string) {
	header = []string{
		"External id", "Name", "Channel", "Address", "Label", "Health", "Last failure", "Failed on", "Checked on", "Declines",
	}
	for _, id := range people {
		p := r.Person(id)
		if p == nil {
			continue
		}
		for _, a := range p.Addresses {
			var declines []string
			for _, u := range roster.Urgencies {
				if a.Declines(u) {
					declines = append(declines, string(u))
				}
			}
			if a.CarrierStop {
				declines = append(declines, "everything")
			}
			rows = append(rows, []string{
				p.ExternalID, p.Name(), string(a.Channel), phone.Display(a.Value), a.Label, string(a.Health), a.LastFailure,
				string(a.FailedOn), string(a.CheckedOn), joined(declines),
			})
		}
	}
	return header, rows
}
