package importer_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/unicode"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/importer"
)

// in writes a text in an encoding.
func in(t *testing.T, e encoding.Encoding, text string) []byte {
	b, err := e.NewEncoder().Bytes([]byte(text))
	require.NoError(t, err)
	return b
}

// book is a workbook that is filled by a function.
func book(t *testing.T, fill func(*excelize.File) error) []byte {
	b := excelize.NewFile()
	require.NoError(t, fill(b))
	buffer, err := b.WriteToBuffer()
	require.NoError(t, err)
	require.NoError(t, b.Close())
	return buffer.Bytes()
}

func rows(b *excelize.File, sheet string, rows ...[]any) error {
	for i, row := range rows {
		if err := b.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &row); err != nil {
			return err
		}
	}
	return nil
}

// said writes a proposal down: a line for each person, then what is asked, refused and
// noted.
func said(u importer.Understood) []string {
	var lines []string
	names := map[roster.PersonID]string{}
	for _, e := range u.Proposal.Entries {
		names[e.After.ID] = e.After.Name()
	}
	for _, e := range u.Proposal.Entries {
		p := e.After
		parts := []string{p.GivenName + "|" + p.FamilyName}
		for _, role := range p.Roles {
			parts = append(parts, string(role))
		}
		if p.ExternalID != "" {
			parts = append(parts, "#"+p.ExternalID)
		}
		if p.Status != roster.Active {
			parts = append(parts, string(p.Status))
		}
		if p.BornOn != "" {
			parts = append(parts, "*"+string(p.BornOn))
		}
		if p.Language != "" {
			parts = append(parts, "@"+p.Language)
		}
		for _, a := range p.Addresses {
			parts = append(parts, fmt.Sprintf("%s:%s(%s)", a.Channel, a.Value, a.Label))
		}
		for _, t := range p.Ties {
			if t.Dependent == p.ID {
				parts = append(parts, map[bool]string{true: "x", false: "<"}[t.Barred]+names[t.Guardian])
			}
		}
		lines = append(lines, strings.Join(parts, " "))
	}
	for _, q := range u.Proposal.Questions {
		lines = append(lines, fmt.Sprintf("? %s %s %d", q.Column, q.Value, q.Rows))
	}
	for _, i := range slices.Concat(u.Proposal.Refused, u.Proposal.Noted) {
		lines = append(lines, "! "+i.Place.String()+": "+i.Value+" "+i.Reason)
	}
	return lines
}

// one is a person with the number 07700 900827 for texts and calls.
const both = " text:+447700900827(mobile) voice:+447700900827(mobile)"

// Files as offices of the world export them, with what is made of each.
func TestFilesOfOffices(t *testing.T) {
	utf16 := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	bare16 := unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	for name, c := range map[string]struct {
		file []byte
		want []string
	}{
		"a school register": {
			[]byte("Student ID,First,Last,DOB,Email,Mobile\n7,Ana,Ruiz,14/09/2012,ana@example.org,07700 900827\n"),
			[]string{"Ana|Ruiz #7 *2012-09-14 email:ana@example.org(email)" + both},
		},
		"a member list in German": {
			[]byte("Mitgliedsnummer;Nachname;Vorname;Geburtsdatum;Handy;Mannschaft\n12;Groß;Änne;3.4.2012;07700 900827;U14\n"),
			[]string{"Änne|Groß #12 *2012-04-03" + both},
		},
		"“Name” beside “Vorname”": {
			[]byte("Name;Vorname\nGroß;Änne\n"), []string{"Änne|Groß"},
		},
		"a class list in French": {
			[]byte("Nom;Prénom;Né le;Courriel;Classe\nLefèvre;Zoé;3 avril 2012;zoe@example.org;6e B\n"),
			[]string{"Zoé|Lefèvre *2012-04-03 email:zoe@example.org(email)"},
		},
		"a list in Spanish": {
			[]byte("Matrícula;Nombre;Apellidos;Fecha de nacimiento;Teléfono móvil\n3;Íñigo;Cañada;3 de abril de 2012;07700 900827\n"),
			[]string{"Íñigo|Cañada #3 *2012-04-03" + both},
		},
		"a list in Portuguese with a guardian": {
			[]byte("Aluno;Responsável 1;Celular responsável 1;Responsável 1 e-mail\nRui Sá;Inês Sá;07700 900827;ines@example.org\n"),
			[]string{"Rui|Sá dependent <Inês Sá", "Inês|Sá guardian" + both + " email:ines@example.org(email)"},
		},
		"a list in Polish": {
			[]byte("Nazwisko;Imię;Data urodzenia;Matka - telefon;Matka\nŁoś;Ewa;3 kwietnia 2012;07700 900827;Łoś, Iga\n"),
			[]string{"Ewa|Łoś dependent *2012-04-03 <Iga Łoś", "Iga|Łoś guardian" + both},
		},
		"a list in Ukrainian": {
			[]byte("Прізвище;Ім'я;Дата народження;Мова\nКоваль;Оля;3 квітня 2012;uk\n"), []string{"Оля|Коваль *2012-04-03 @uk"},
		},
		"a list in Arabic": {
			[]byte("الاسم,رقم الجوال\nرانيا حداد,07700 900827\n"), []string{"رانيا|حداد" + both},
		},
		"a list in Vietnamese": {
			[]byte("Họ và tên,Ngày sinh,Số điện thoại\nTrần An,ngày 3 tháng 4 năm 2012,07700 900827\n"),
			[]string{"Trần|An *2012-04-03" + both},
		},
		"a list in Chinese": {
			[]byte("学号,姓名,出生日期,手机\n１２,王小明,2012年4月3日,０７７００ ９００８２７\n"), []string{"小明|王 #12 *2012-04-03" + both},
		},
		"a list in Japanese": {
			in(t, japanese.ShiftJIS, "氏名,生年月日,電話番号\n山田 花子,2012/04/03,07700 900827\n佐藤 太郎,2011/12/24,\n"),
			[]string{"花子|山田 *2012-04-03" + both, "太郎|佐藤 *2011-12-24"},
		},
		"a list of Korean names": {
			[]byte("Name\n김민수\n"), []string{"민수|김"},
		},
		"Windows-1252": {
			in(t, charmap.Windows1252, "Name;Ort\nJosé Núñez;Ávila\nZoë Crête;Liège\n"), []string{"José|Núñez", "Zoë|Crête"},
		},
		"Windows-1250": {
			in(t, charmap.Windows1250, "Imię;Nazwisko\nŁucja;Jarzębina\nŻaneta;Święch\n"), []string{"Łucja|Jarzębina", "Żaneta|Święch"},
		},
		"Windows-1250 in Czech": {
			in(t, charmap.Windows1250, "Jméno;Příjmení\nŘehoř;Dvořák\nLuděk;Černý\n"), []string{"Řehoř|Dvořák", "Luděk|Černý"},
		},
		"Windows-1251": {
			in(t, charmap.Windows1251, "Фамилия;Имя\nКузьмина;Юлия\n"), []string{"Юлия|Кузьмина"},
		},
		"GB18030": {
			in(t, simplifiedchinese.GB18030, "姓名,手机\n欧阳娜娜,07700 900827\n王芳,\n"), []string{"娜娜|欧阳" + both, "芳|王"},
		},
		"UTF-16 with a mark": {
			in(t, utf16, "Name\tMobile\r\nŁucja Święch\t07700 900827\r\n"), []string{"Łucja|Święch" + both},
		},
		"UTF-16 without a mark": {
			in(t, bare16, "Name\tMobile\r\nBo Venn\t07700 900827\r\n"), []string{"Bo|Venn" + both},
		},
		"line ends of the Mac": {
			[]byte("Name,Mobile\rBo Venn,07700 900827\rCy Venn,\r"), []string{"Bo|Venn" + both, "Cy|Venn"},
		},
		"a line that names the separator": {
			[]byte("sep=;\nName;Notes\nBo Venn;a, b, c\n"), []string{"Bo|Venn"},
		},
		"bars between cells": {
			[]byte("Name|Mobile\nBo Venn|07700 900827\n"), []string{"Bo|Venn" + both},
		},
		"titles above the headings": {
			[]byte("Harrow Lock School\nExported,24/11/2026,by the office\n\nSurname,Forename,Phone\nVenn,Bo,07700 900827\n"),
			[]string{"Bo|Venn" + both},
		},
		"a head in two rows": {
			[]byte("Pupil,,Mother,,Father,\nSurname,Forename,Name,Mobile,Name,Email\nVenn,Bo,Di Venn,07700 900827,Ed Venn,ed@example.org\n"),
			[]string{
				"Bo|Venn dependent <Di Venn <Ed Venn", "Di|Venn guardian" + both, "Ed|Venn guardian email:ed@example.org(email)",
			},
		},
		"guardians beside a child": {
			[]byte("Student Name,Guardian 1 Name,Guardian 1 Mobile,Guardian 2 Name,Guardian 2 No Contact,Guardian 1 Language\n" +
				"Bo Venn,\"Venn, Di\",07700 900827,Ed Venn,Yes,pl\nCy Venn,\"Venn, Di\",07700 900827,,,\n"),
			[]string{
				"Bo|Venn dependent <Di Venn xEd Venn", "Di|Venn guardian @pl" + both, "Ed|Venn guardian", "Cy|Venn dependent <Di Venn",
			},
		},
		"a bar in words of its own": {
			[]byte("Pupil,Guardian 1,Guardian 1 no contact\nBo Venn,Di Venn,see file\n"),
			[]string{
				"Bo|Venn dependent xDi Venn", "Di|Venn guardian",
				"! line 2: see file is neither yes nor no: contact is barred",
			},
		},
		"a guardian's number without a name": {
			[]byte("Name,Parent mobile\nBo Venn,07700 900827\n"),
			[]string{"Bo|Venn", "! line 2: +447700900827 belongs to guardian 1, who has no name; it is left off"},
		},
		"several numbers with remarks": {
			[]byte("Name,Role,Phone\nAl Venn,staff,07700 900827 / 01632 960009 ext. 9 (work)\n"),
			[]string{"Al|Venn staff" + both + " voice:+441632960009;ext=9(work)"},
		},
		"parents' numbers in the child's cell": {
			[]byte("Pupil,Phone,Mother\nBo Venn,07700 900827 (mum) / 07700 900828 (dad),Di Venn\n"),
			[]string{
				"Bo|Venn dependent <Di Venn", "Di|Venn guardian",
				"! line 2: 07700 900827 (mum) is a parent’s number and not the person’s own; give the parent a column, or a row",
				"! line 2: 07700 900828 (dad) is a parent’s number and not the person’s own; give the parent a column, or a row",
			},
		},
		"parents' numbers with their relation": {
			[]byte("Pupil,Phone,Guardian 1,Guardian 1 relationship\nBo Venn,07700 900827 (mum),Di Venn,Mother\n"),
			[]string{
				"Bo|Venn dependent <Di Venn", "Di|Venn guardian text:+447700900827(mum) voice:+447700900827(mum)",
			},
		},
		"dates that one date decides": {
			[]byte("Name,DOB\nBo Venn,3/4/2012\nCy Venn,9/14/2012\n"), []string{"Bo|Venn *2012-03-04", "Cy|Venn *2012-09-14"},
		},
		"dates that none decides": {
			[]byte("Name,DOB\nBo Venn,3/4/2012\nCy Venn,5/6/2012\n"),
			[]string{"Bo|Venn *2012-04-03", "Cy|Venn *2012-06-05", "? DOB 3/4/2012 1"},
		},
		"dates that contradict": {
			[]byte("Name,DOB\nBo Venn,14/9/2012\nCy Venn,9/14/2012\n"),
			[]string{
				"Bo|Venn *2012-09-14", "Cy|Venn", "? DOB  1",
				"! line 3: 9/14/2012 is no date such as 2026-11-28; the person loads without it",
			},
		},
		"years of two digits": {
			[]byte("Name,Born\nBo Venn,24.12.12\nCy Venn,24.12.61\n"), []string{"Bo|Venn *2012-12-24", "Cy|Venn *1961-12-24"},
		},
		"numbers that a spreadsheet shortened": {
			[]byte("Name;Mobile\nBo Venn;4,91712E+11\n"),
			[]string{"Bo|Venn", "! line 2: 4,91712E+11 cannot be read as a telephone number: it was shortened by a spreadsheet, " +
				"and its last digits are gone: make the column text there, and save it again; the person loads without it"},
		},
		"numbers that are kept from a spreadsheet": {
			[]byte("Name;Mobile\nBo Venn;=\"+447700900827\"\n"), []string{"Bo|Venn" + both},
		},
		"who has left": {
			[]byte("Name;Status\nBo Venn;ausgetreten\nCy Venn;aktiv\nDi Venn;Karteileiche\nEd Venn;karteileiche\n"),
			[]string{"Bo|Venn left", "Cy|Venn", "Di|Venn", "Ed|Venn", "? Status karteileiche 2"},
		},
		"mailboxes without a heading": {
			[]byte("Name,\nBo Venn,bo@example.org\nCy Venn,cy@example.org\nDi Venn,di@example.org\n"),
			[]string{"Bo|Venn email:bo@example.org(email)", "Cy|Venn email:cy@example.org(email)", "Di|Venn email:di@example.org(email)"},
		},
		"rows that cannot be read": {
			[]byte("Name,Mobile\nBo \"Venn,1\nCy,2,3\n"),
			[]string{
				"! line 2:  a quotation mark stands in a cell that is not quoted", "! line 3:  the row has 3 cells below 2 headings",
			},
		},
		"a workbook with titles and merged cells": {
			book(t, func(b *excelize.File) error {
				if err := rows(b, "Sheet1", []any{"Autumn term"}, []any{}, []any{"Class", "Name", "Mobile"},
					[]any{"U14", "Bo Venn", 447700900827}, []any{nil, "Cy Venn"}); err != nil {
					return err
				}
				return b.MergeCell("Sheet1", "A4", "A5")
			}),
			[]string{"Bo|Venn" + both, "Cy|Venn"},
		},
		"a workbook with a hidden sheet": {
			book(t, func(b *excelize.File) error {
				if _, err := b.NewSheet("Old"); err != nil {
					return err
				}
				if err := rows(b, "Old", []any{"Name"}, []any{"Di Venn"}); err != nil {
					return err
				}
				if err := rows(b, "Sheet1", []any{"Name"}, []any{"Bo Venn"}); err != nil {
					return err
				}
				return b.SetSheetVisible("Old", false)
			}),
			[]string{"Bo|Venn", "! Old, line 0:  the sheet is hidden; it is left out"},
		},
		"an address book": {
			[]byte("BEGIN:VCARD\r\nVERSION:3.0\r\nN:Venn;Bo;;;\r\nTEL;TYPE=FAX:01632 960001\r\nTEL;TYPE=WORK:tel:+441632960009;ext=9\r\n" +
				"EMAIL:MAILTO:bo@example.org\r\nEND:VCARD\r\n"),
			[]string{"Bo|Venn email:bo@example.org(email) voice:+441632960009;ext=9(landline)"},
		},
	} {
		t.Run(name, func(t *testing.T) {
			im, _ := newImporter(t, "")
			im.Now = func() time.Time { return time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC) }
			id, err := im.Add(ctx, access.Program, "roster", c.file)
			require.NoError(t, err)
			u, err := im.Understand(ctx, access.Program, id)
			require.NoError(t, err)
			assert.Equal(t, c.want, said(u), "%v %v", u.Table.Header, u.Import.Mapping)
		})
	}
}

// What is asked is answered once, and loads then.
func TestAnsweringWhatIsAsked(t *testing.T) {
	im, _ := newImporter(t, "")
	id, err := im.Add(ctx, access.Program, "a.csv", []byte("Name,DOB,Status\nBo Venn,3/4/2012,resting\n"))
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	require.ErrorIs(t, u.Problem, intake.ErrQuestions)
	require.ErrorIs(t, im.Start(ctx, access.Program, id), intake.ErrQuestions)
	u.Import.Reading = intake.Reading{
		Dates: intake.MonthFirst, Statuses: map[string]roster.Status{"resting": roster.Away},
	}
	require.NoError(t, im.Map(ctx, access.Program, u.Import))
	u, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	require.NoError(t, u.Problem)
	assert.Equal(t, []string{"Bo|Venn away *2012-03-04"}, said(u))
	_, err = im.Load(ctx, access.Program, id)
	require.NoError(t, err)
}

// Another encoding or another line of headings has the columns guessed anew.
func TestReadingAFileInAnotherWay(t *testing.T) {
	im, _ := newImporter(t, "")
	file := in(t, charmap.Windows1250, "x,y\nImię,Telefon\nŁucja,07700 900827\n")
	id, err := im.Add(ctx, access.Program, "a.csv", file)
	require.NoError(t, err)
	u, err := im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, "Windows-1250", u.Table.Encoding)
	assert.Equal(t, 2, u.Table.Heading)
	u.Import.Reading = intake.Reading{Heading: 1, Encoding: "Windows-1252"}
	require.NoError(t, im.Map(ctx, access.Program, u.Import))
	u, err = im.Understand(ctx, access.Program, id)
	require.NoError(t, err)
	assert.Equal(t, []string{"x", "y"}, u.Table.Header)
	assert.Equal(t, "Windows-1252", u.Table.Encoding)
	assert.Equal(t, "£ucja", u.Table.Rows[1].Cells[0])
	u.Import.Reading.Encoding = "UTF-8"
	require.ErrorContains(t, im.Map(ctx, access.Program, u.Import), "it is no UTF-8")
}
