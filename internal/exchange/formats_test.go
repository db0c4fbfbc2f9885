package exchange_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
)

// sample reads one of the files that the documentation shows.
func sample(t testing.TB, name string) *exchange.Table {
	file, err := os.ReadFile(filepath.Join("..", "..", "docs", "samples", name))
	require.NoError(t, err)
	table, err := exchange.Read(file)
	require.NoError(t, err)
	return table
}

// cell is what a row says in a column.
func cell(t *exchange.Table, row int, column string) string {
	for i, h := range t.Header {
		if h == column && i < len(t.Rows[row].Cells) {
			return t.Rows[row].Cells[i]
		}
	}
	return ""
}

func TestVCards(t *testing.T) {
	v := sample(t, "people.vcf")
	assert.Equal(t, "vCard, 11 columns, 3 rows", v.Describe())
	require.Len(t, v.Rows, 3)
	for column, want := range map[string]string{
		"given name": "Rania", "family name": "Haddad", "external id": "G1", "mobile": "+44 7700 900417",
		"landline": "+44 7700 900418",
		"email":    "rania@example.org", "groups": "Parents;Crew", "born on": "1986-03-08",
		"notes": "Has a key to the boathouse, and a very long note that the program that wrote this file folded over two lines.",
	} {
		assert.Equal(t, want, cell(v, 0, column), column)
	}
	assert.Equal(t, "Szymon", cell(v, 1, "given name"), "quoted-printable")
	assert.Equal(t, "First line\nsecond line", cell(v, 1, "notes"), "a soft line break")
	assert.Equal(t, "07700 900872", cell(v, 1, "mobile"))
	assert.Equal(t, "Launch Kestrel", cell(v, 2, "full name"), "a card without N")
	assert.Equal(t, "+44-7700-900873", cell(v, 2, "landline"))
	assert.Equal(t, "kestrel@quillmere.example", cell(v, 2, "email"), "a property in a group")
	assert.Equal(t, 16, v.Rows[1].Line)
}

func TestAFileIsReadTheSameWayEveryTime(t *testing.T) {
	first := sample(t, "people.vcf")
	for range 20 {
		require.Equal(t, first, sample(t, "people.vcf"))
	}
}

func TestTheWorkbookSaysWhatTheTextSays(t *testing.T) {
	text, book := sample(t, "people.csv"), sample(t, "people.xlsx")
	assert.Equal(t, text.Header, book.Header)
	require.Len(t, book.Rows, len(text.Rows))
	for i := range text.Rows {
		assert.Equal(t, text.Rows[i].Cells, book.Rows[i].Cells)
	}
}

func TestVCardsWithoutAnEnd(t *testing.T) {
	v, err := exchange.Read([]byte("BEGIN:VCARD\nFN:Bo\nBEGIN:VCARD\nFN:Cy\nEND:VCARD\n"))
	require.NoError(t, err)
	require.Len(t, v.Rows, 1)
	require.Len(t, v.Unread, 1)
	assert.Contains(t, v.Unread[0].Reason, "it has no end")
}

func TestOneRoster(t *testing.T) {
	v := sample(t, "oneroster.zip")
	require.Len(t, v.Rows, 5)
	assert.Equal(t, "u-2;u-3", cell(v, 0, "guardians"))
	assert.Equal(t, "dependent", cell(v, 0, "roles"))
	assert.Equal(t, "U14", cell(v, 0, "groups"))
	assert.Equal(t, "2012-05-03", cell(v, 0, "born on"))
	assert.Equal(t, "Juniors", cell(v, 0, "unit"))
	assert.Equal(t, "u-1", cell(v, 2, "dependents"))
	assert.Equal(t, "left", cell(v, 2, "status"), "a user who is not enabled")
	assert.Equal(t, "staff", cell(v, 3, "roles"))
	var noted []string
	for _, issue := range v.Noted {
		noted = append(noted, fmt.Sprintf("%s: %s %s", issue.Place, issue.Value, issue.Reason))
	}
	assert.ElementsMatch(t, []string{
		"enrollments.csv, line 4: c-9 there is no such class in the bundle",
		"enrollments.csv, line 5: u-77 there is no such user in the bundle",
		"demographics.csv, line 3: u-88 there is no such user in the bundle",
		"users.csv, line 5: org-9 there is no such organisation in the bundle",
		"users.csv, line 6: u-99 there is no user u-99 in the bundle",
	}, noted, "what refers to nothing is said with its place")
}

func zipped(t testing.TB, files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, content := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestZippedFilesThatAreNoRoster(t *testing.T) {
	for name, c := range map[string]struct {
		file []byte
		want error
	}{
		"a bomb":                     {zipped(t, map[string]string{"xl/workbook.xml": strings.Repeat("\x00", 40<<20)}), exchange.ErrBomb},
		"a bundle without its users": {zipped(t, map[string]string{"orgs.csv": "sourcedId,name\n"}), exchange.ErrZipContents},
		"a bundle of empty users":    {zipped(t, map[string]string{"users.csv": ""}), exchange.ErrOneRoster},
		"a bundle of odd users":      {zipped(t, map[string]string{"users.csv": "a\x00b"}), exchange.ErrOneRoster},
		"something else zipped":      {zipped(t, map[string]string{"photo.png": "x"}), exchange.ErrZipContents},
		"a workbook of nothing":      {zipped(t, map[string]string{"xl/workbook.xml": "<workbook"}), exchange.ErrWorkbook},
		"half a file":                {zipped(t, map[string]string{"users.csv": "sourcedId\n1\n"})[:40], exchange.ErrBrokenZip},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := exchange.Read(c.file)
			require.ErrorIs(t, err, c.want)
		})
	}
}

func workbook(t testing.TB, fill func(*excelize.File)) []byte {
	book := excelize.NewFile()
	fill(book)
	var b bytes.Buffer
	require.NoError(t, book.Write(&b))
	require.NoError(t, book.Close())
	return b.Bytes()
}

func TestWorkbooks(t *testing.T) {
	file := workbook(t, func(b *excelize.File) {
		rows := [][]any{
			{"Id", "Name", "Mobile", "Born"}, {}, {1, "Bo Venn", 447700900001, time.Date(2012, 5, 3, 0, 0, 0, 0, time.UTC)},
			{2, "Cy Venn", "07700 900002"},
		}
		for i, row := range rows {
			require.NoError(t, b.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
		}
		date, err := b.NewStyle(&excelize.Style{NumFmt: 14})
		require.NoError(t, err)
		require.NoError(t, b.SetCellStyle("Sheet1", "D3", "D3", date))
		require.NoError(t, b.SetCellFormula("Sheet1", "B5", `HYPERLINK("https://elsewhere.example","Di")`))
		require.NoError(t, b.SetCellValue("Sheet1", "A5", 3))
		_, err = b.NewSheet("Wardens")
		require.NoError(t, err)
		more := [][]any{{"name", "Station"}, {"Eve Osei", "Flood watch"}, {"Fay", "Flood watch", "too much"}}
		for i, row := range more {
			require.NoError(t, b.SetSheetRow("Wardens", fmt.Sprintf("A%d", i+1), &row))
		}
	})
	v, err := exchange.Read(file)
	require.NoError(t, err)
	assert.Equal(t, []string{"Id", "Name", "Mobile", "Born", "Sheet", "Station"}, v.Header, "equal headings are one column")
	assert.Equal(t, "workbook with 2 sheets, 6 columns, 4 rows", v.Describe())
	assert.Equal(t, "447700900001", cell(v, 0, "Mobile"), "a long number is not rounded")
	assert.Equal(t, "2012-05-03", cell(v, 0, "Born"), "a date is a date")
	assert.Equal(t, "Sheet1, line 3", v.Rows[0].String())
	assert.Empty(t, cell(v, 2, "Name"), "a formula is not computed")
	assert.Equal(t, "Eve Osei", cell(v, 3, "Name"))
	require.Len(t, v.Unread, 1)
	assert.Equal(t, "Wardens, line 3", v.Unread[0].Place.String())
}

// club is a roster with everything that a file can say.
func club(t testing.TB) *roster.Roster {
	empty, err := roster.New(contents())
	require.NoError(t, err)
	v := sample(t, "people.csv")
	p := proposal(t, v, empty)
	require.Empty(t, p.Refused)
	require.Empty(t, p.Noted)
	require.Len(t, p.Entries, 3)
	return loaded(t, p)
}

func contents() roster.Contents {
	return roster.Contents{
		Units: []roster.Unit{{ID: 1, Name: "Rowing"}, {ID: 2, Name: "Juniors", Parent: 1}},
		Attributes: []roster.Attribute{
			{ID: 1, Name: "Swim test", Kind: roster.ChoiceAttribute, Choices: []string{"passed", "due"}},
			{ID: 2, Name: "Odd; name, really", Kind: roster.TextAttribute},
		},
	}
}

func proposal(t testing.TB, v *exchange.Table, r *roster.Roster) *intake.Proposal {
	p, err := intake.Propose(intake.Table{
		Header: v.Header, Rows: v.Rows, Mapping: intake.Guess(v.Header, v.Rows, r.Attributes), Region: "GB", Roles: roster.Roles,
		Zone: func(name string) bool { _, err := time.LoadLocation(name); return err == nil },
	}, r)
	require.NoError(t, err)
	return p
}

// loaded makes the roster that loading a proposal into nothing makes.
func loaded(t testing.TB, p *intake.Proposal) *roster.Roster {
	c := contents()
	for i, g := range p.Groups {
		g.ID = roster.GroupID(i + 1)
		for _, n := range p.Nestings {
			if -n.Outer == g.ID {
				g.Inside = append(g.Inside, -n.Inner)
			}
		}
		c.Groups = append(c.Groups, g)
	}
	for i, e := range p.Entries {
		person := e.After.Person
		person.ID = roster.PersonID(i + 1)
		person.Values = []roster.Value{{Attribute: 1, Value: "due"}, {Attribute: 2, Value: "a, b; \\ c\nd"}}
		person.Unit = 2
		for n := range person.Addresses {
			person.Addresses[n].ID = roster.AddressID(10*i + n)
		}
		c.People = append(c.People, person)
		for _, tie := range e.After.Ties {
			c.Ties = append(c.Ties, roster.Tie{
				Guardian: -tie.Guardian, Dependent: -tie.Dependent, Receives: tie.Receives, Barred: tie.Barred,
			})
		}
		for _, g := range e.After.Groups {
			c.Groups[-g-1].Members = append(c.Groups[-g-1].Members, person.ID)
		}
	}
	r, err := roster.New(c)
	require.NoError(t, err)
	return r
}

// What is written and read back changes nothing, in every format.
func TestRoundTrips(t *testing.T) {
	r := club(t)
	columns := intake.ColumnsFor(r)
	var rows [][]string
	for i := range r.Len() {
		rows = append(rows, intake.Cells(r, r.Sheet(r.At(i).ID), columns))
	}
	for _, format := range []exchange.Format{exchange.CSV, exchange.Workbook, exchange.VCard} {
		t.Run(string(format), func(t *testing.T) {
			file, err := exchange.WritePeople(format, columns, rows)
			require.NoError(t, err)
			v, err := exchange.Read(file)
			require.NoError(t, err)
			require.Empty(t, v.Unread)
			p := proposal(t, v, r)
			assert.Empty(t, p.Refused)
			assert.Empty(t, p.Noted)
			assert.Equal(t, 3, p.Unchanged)
			for _, e := range p.Entries {
				assert.Empty(t, e.Changes, e.After.Name())
			}
			assert.True(t, p.Empty())
		})
	}
}

func TestFormulasAreMadeHarmless(t *testing.T) {
	header, rows := []string{"Name", "Notes"}, [][]string{
		{"Bo", "=SUM(A1)"}, {"Cy", "@cmd"}, {"Di", "+44 7700 900417"}, {"Eve", "+1+1; -2"}, {"'Fay", "-x"},
	}
	file, err := exchange.Write(exchange.CSV, "", header, rows)
	require.NoError(t, err)
	for _, want := range []string{"'=SUM(A1)", "'@cmd", ",+44 7700 900417", "'+1+1; -2", "'-x"} {
		assert.Contains(t, string(file), want)
	}
	v, err := exchange.Read(file)
	require.NoError(t, err)
	for i, row := range rows {
		assert.Equal(t, row, v.Rows[i].Cells)
	}
	file, err = exchange.Write(exchange.Workbook, "People", header, rows)
	require.NoError(t, err)
	book, err := excelize.OpenReader(bytes.NewReader(file))
	require.NoError(t, err)
	formula, err := book.GetCellFormula("People", "B2")
	require.NoError(t, err)
	assert.Empty(t, formula, "in a workbook text is text")
	_, err = exchange.Write(exchange.VCard, "Groups", header, rows)
	require.ErrorIs(t, err, exchange.ErrFormat)
}

func FuzzRead(f *testing.F) {
	for _, name := range []string{"people.csv", "people.vcf", "oneroster.zip"} {
		file, err := os.ReadFile(filepath.Join("..", "..", "docs", "samples", name))
		require.NoError(f, err)
		f.Add(file)
	}
	f.Add(workbook(f, func(b *excelize.File) { _ = b.SetCellValue("Sheet1", "A1", "Name") }))
	f.Fuzz(func(t *testing.T, file []byte) {
		table, err := exchange.Read(file)
		if err != nil {
			return
		}
		for _, r := range table.Rows {
			if len(r.Cells) > len(table.Header) {
				t.Fatal("a row is wider than the headings")
			}
		}
	})
}

func FuzzReadVCards(f *testing.F) {
	file, err := os.ReadFile(filepath.Join("..", "..", "docs", "samples", "people.vcf"))
	require.NoError(f, err)
	f.Add(file)
	f.Add([]byte("BEGIN:VCARD\nN;ENCODING=QUOTED-PRINTABLE:=\n"))
	f.Fuzz(func(_ *testing.T, file []byte) { _, _ = exchange.ReadVCards(file) })
}

func TestOneRosterOfTheLaterVersion(t *testing.T) {
	v, err := exchange.Read(zipped(t, map[string]string{
		"users.csv": "sourcedId,status,enabledUser,givenName,familyName,preferredGivenName,sms,agentSourcedIds,primaryOrgSourcedId\n" +
			"u-1,active,true,Anders,Elm,Andy,07700 900801,,o-1\n" +
			"u-2,tobedeleted,true,Bea,Oak,,,,o-1\n" +
			"u-3,active,true,Cora,Elm,,,u-1,o-1\n",
		"roles.csv": "sourcedId,status,userSourcedId,roleType,role\n" +
			"r-1,active,u-1,primary,guardian\nr-2,active,u-1,secondary,teacher\n" +
			"r-3,active,u-3,primary,student\nr-4,tobedeleted,u-3,secondary,teacher\nr-5,active,u-8,primary,student\n",
		"orgs.csv": "sourcedId,name\no-1,Lock House\n",
	}))
	require.NoError(t, err)
	require.Len(t, v.Rows, 3)
	assert.Equal(t, "guardian;staff", cell(v, 0, "roles"))
	assert.Equal(t, "Andy", cell(v, 0, "known as"))
	assert.Equal(t, "left", cell(v, 1, "status"), "a user to be deleted")
	assert.Equal(t, "dependent", cell(v, 2, "roles"), "a role to be deleted is none")
	assert.Equal(t, "u-1", cell(v, 2, "guardians"))
	assert.Equal(t, "Lock House", cell(v, 2, "unit"))
	require.Len(t, v.Noted, 1)
	assert.Equal(t, "roles.csv, line 6", v.Noted[0].Place.String())
}

// Any name survives the fold of a line and the marks that separate its parts.
func TestVCardsKeepEveryName(t *testing.T) {
	header := []intake.Column{intake.GivenName, intake.FamilyName}
	name := rapid.StringOfN(rapid.RuneFrom([]rune(`aé,;:\"=żليलि語 -`)), 1, 80, -1)
	rapid.Check(t, func(t *rapid.T) {
		given := "x" + name.Draw(t, "given") + "x"
		family := "x" + name.Draw(t, "family") + "x"
		file, err := exchange.WritePeople(exchange.VCard, header, [][]string{{given, family}})
		if err != nil {
			t.Fatal(err)
		}
		for line := range strings.SplitSeq(string(file), "\r\n") {
			if len(line) > 76 || !utf8.ValidString(line) {
				t.Fatalf("%q is too long or cut within a character", line)
			}
		}
		back, err := exchange.Read(file)
		if err != nil {
			t.Fatal(err)
		}
		if got := cell(back, 0, "given name") + "|" + cell(back, 0, "family name"); got != given+"|"+family {
			t.Fatalf("%q came back as %q", given+"|"+family, got)
		}
	})
}

// A class or an organisation that is to be deleted fills no group and is no unit.
func TestOneRosterClassesToBeDeleted(t *testing.T) {
	v, err := exchange.Read(zipped(t, map[string]string{
		"users.csv":       "sourcedId,status,enabledUser,givenName,familyName,role,primaryOrgSourcedId\nu-1,active,true,Anders,Elm,student,o-1\n",
		"orgs.csv":        "sourcedId,status,name\no-1,tobedeleted,Lock House\n",
		"classes.csv":     "sourcedId,status,title\nc-1,tobedeleted,Old squad\nc-2,active,New squad\n",
		"enrollments.csv": "sourcedId,status,classSourcedId,userSourcedId\ne-1,active,c-1,u-1\ne-2,active,c-2,u-1\n",
	}))
	require.NoError(t, err)
	require.Len(t, v.Rows, 1)
	assert.Equal(t, "New squad", cell(v, 0, "groups"))
	assert.Empty(t, cell(v, 0, "unit"))
	assert.Empty(t, v.Noted)
}
