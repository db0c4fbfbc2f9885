package exchange

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"upperlantern/internal/core/intake"
)

// ErrOneRoster means that a bundle's users cannot be read.
var ErrOneRoster = errors.New("the OneRoster bundle cannot be read")

// oneRosterRoles says what the roles of a bundle are here.
var oneRosterRoles = map[string]string{
	"student": "dependent", "parent": "guardian", "guardian": "guardian", "relative": "guardian",
	"teacher": "staff", "aide": "staff", "administrator": "staff", "proctor": "staff", "counselor": "staff",
	"principal":         "staff",
	"siteadministrator": "staff", "districtadministrator": "staff", "systemadministrator": "staff",
}

// bundle is a OneRoster bundle in its binding as CSV files (versions 1.1 and 1.2).
type bundle struct {
	files map[string]*Table // by the name of the file in lower case
	table *Table
}

// readOneRoster reads the people of a bundle with their classes, their
// organisations and, by agentSourcedIds, their guardians. Files other than
// users.csv may be missing; a reference to something that is not there is noted.
func readOneRoster(z *zip.Reader) (*Table, error) {
	b := bundle{files: map[string]*Table{}, table: &Table{Form: "OneRoster bundle"}}
	for _, f := range z.File {
		name := strings.ToLower(path.Base(f.Name))
		if !slices.Contains(
			[]string{"users.csv", "orgs.csv", "classes.csv", "enrollments.csv", "demographics.csv", "roles.csv"}, name,
		) {
			continue
		}
		table, err := readBundled(f)
		switch {
		case errors.Is(err, ErrEmpty):
			continue
		case err != nil:
			return nil, fmt.Errorf("%w: %s: %w", ErrOneRoster, name, err)
		}
		b.files[name] = table
		for _, issue := range table.Unread {
			issue.Sheet = name
			b.table.Unread = append(b.table.Unread, issue)
		}
	}
	if b.files["users.csv"] == nil {
		return nil, fmt.Errorf("%w: users.csv is empty", ErrOneRoster)
	}
	b.read()
	return b.table, nil
}

func readBundled(f *zip.File) (*Table, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close() //nolint:errcheck // it was only read
	content, err := io.ReadAll(io.LimitReader(r, largestBundled+1))
	if err != nil {
		return nil, err
	}
	if len(content) > largestBundled {
		return nil, fmt.Errorf("%w: it has more than %d MB", ErrTooMuch, largestBundled>>20)
	}
	return ReadCSV(content)
}

// record is a row of one of the files.
type record struct {
	at      intake.Place
	cells   []string
	columns map[string]int // of all rows of the file, by the heading in lower case
}

// value is a cell by its heading in lower case, or "".
func (r record) value(heading string) string {
	if at, known := r.columns[heading]; known && at < len(r.cells) {
		return strings.TrimSpace(r.cells[at])
	}
	return ""
}

func (b *bundle) records(file string) []record {
	t := b.files[file]
	if t == nil {
		return nil
	}
	columns := make(map[string]int, len(t.Header))
	for i, heading := range t.Header {
		columns[strings.ToLower(heading)] = i
	}
	list := make([]record, len(t.Rows))
	for i, row := range t.Rows {
		list[i] = record{intake.Place{Sheet: file, Line: row.Line}, row.Cells, columns}
	}
	return list
}

func (r record) gone() bool { return strings.EqualFold(r.value("status"), "tobedeleted") }

func (b *bundle) note(r record, column, reason string) {
	b.table.Noted = append(b.table.Noted, intake.Issue{
		Place: r.at, Column: column, Value: r.value(strings.ToLower(column)), Reason: reason,
	})
}

var oneRosterHeader = []intake.Column{
	intake.ExternalID, intake.GivenName, intake.FamilyName, intake.KnownAs, intake.Roles, intake.Unit, intake.Email,
	intake.Mobile,
	intake.Landline, intake.Groups, intake.Guardians, intake.Dependents, intake.BornOn, intake.Status,
}

func (b *bundle) read() {
	for _, c := range oneRosterHeader {
		b.table.Header = append(b.table.Header, string(c))
	}
	users := b.records("users.csv")
	known := map[string]bool{}
	for _, u := range users {
		known[u.value("sourcedid")] = true
	}
	orgs := b.names("orgs.csv", "name")
	roles := b.gather("roles.csv", "usersourcedid", "role", known)
	classes := b.classes(known)
	born := map[string]string{}
	for _, d := range b.records("demographics.csv") {
		born[d.value("sourcedid")] = d.value("birthdate")
		if !known[d.value("sourcedid")] {
			b.note(d, "sourcedId", "there is no such user in the bundle")
		}
	}
	for _, u := range users {
		b.user(u, known, orgs, roles, classes, born)
	}
}

// names maps the identifiers of a file to a column of it. What is to be deleted
// has "".
func (b *bundle) names(file, column string) map[string]string {
	names := map[string]string{}
	for _, r := range b.records(file) {
		names[r.value("sourcedid")] = r.value(column)
		if r.gone() {
			names[r.value("sourcedid")] = ""
		}
	}
	return names
}

// gather lists a column of a file by the user that its rows refer to.
func (b *bundle) gather(file, by, column string, known map[string]bool) map[string][]string {
	list := map[string][]string{}
	for _, r := range b.records(file) {
		user := r.value(by)
		if r.gone() || r.value(column) == "" {
			continue
		}
		if !known[user] {
			b.note(r, "userSourcedId", "there is no such user in the bundle")
			continue
		}
		list[user] = append(list[user], r.value(column))
	}
	return list
}

// classes are the titles of the classes that each user is enrolled in.
func (b *bundle) classes(known map[string]bool) map[string][]string {
	titles := b.names("classes.csv", "title")
	list := map[string][]string{}
	for _, e := range b.records("enrollments.csv") {
		if e.gone() {
			continue
		}
		user, class := e.value("usersourcedid"), e.value("classsourcedid")
		switch {
		case !known[user]:
			b.note(e, "userSourcedId", "there is no such user in the bundle")
		case titles[class] == "":
			if _, deleted := titles[class]; !deleted {
				b.note(e, "classSourcedId", "there is no such class in the bundle")
			}
		default:
			list[user] = append(list[user], strings.NewReplacer(";", ",", ">", "-", "|", "-").Replace(titles[class]))
		}
	}
	return list
}

func (b *bundle) user(
	u record, known map[string]bool, orgs map[string]string, roles, classes map[string][]string, born map[string]string,
) {
	v := u.value
	id := v("sourcedid")
	words := roles[id]
	if v("role") != "" {
		words = append(words, v("role"))
	}
	var here []string
	for _, word := range words {
		if role := oneRosterRoles[strings.ToLower(word)]; role != "" && !slices.Contains(here, role) {
			here = append(here, role)
		}
	}
	var agents []string
	for _, agent := range strings.Split(v("agentsourcedids"), ",") {
		if agent = strings.TrimSpace(agent); agent == "" {
			continue
		}
		if !known[agent] {
			b.note(u, "agentSourcedIds", "there is no user "+agent+" in the bundle")
			continue
		}
		agents = append(agents, agent)
	}
	guardians, dependents := strings.Join(agents, ";"), ""
	if !slices.Contains(here, "dependent") {
		guardians, dependents = "", guardians
	}
	status := ""
	if u.gone() || strings.EqualFold(v("enableduser"), "false") {
		status = "left"
	}
	b.table.Rows = append(b.table.Rows, intake.Row{Place: u.at, Cells: []string{
		id, v("givenname"), v("familyname"), v("preferredgivenname"), strings.Join(here, ";"), b.org(u, orgs), v("email"),
		v("sms"), v("phone"),
		strings.Join(classes[id], ";"), guardians, dependents, born[id], status,
	}})
}

// org names the first organisation of a user.
func (b *bundle) org(u record, orgs map[string]string) string {
	ids := u.value("primaryorgsourcedid")
	if ids == "" {
		ids = u.value("orgsourcedids")
	}
	first, _, _ := strings.Cut(ids, ",")
	if first = strings.TrimSpace(first); first == "" || b.files["orgs.csv"] == nil {
		return ""
	}
	if _, deleted := orgs[first]; !deleted {
		b.note(u, "orgSourcedIds", "there is no such organisation in the bundle")
	}
	return orgs[first]
}
