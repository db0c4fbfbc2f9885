package intake_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
)

func TestDatesAsPeopleWriteThem(t *testing.T) {
	for written, want := range map[string]roster.Date{
		"2012-04-03": "2012-04-03", "2012/4/3": "2012-04-03", "20120403": "2012-04-03", "2012年4月3日": "2012-04-03",
		"2012년 4월 3일": "2012-04-03", "3.4.2012": "2012-04-03", "03.04.12": "2012-04-03", "3/4/2012": "2012-04-03",
		"3-4-2012": "2012-04-03", "2012-04-03T00:00:00Z": "2012-04-03", "2012-04-03 00:00:00": "2012-04-03",
		"3/4/2012 12:30 PM": "2012-04-03", "3 April 2012": "2012-04-03", "April 3, 2012": "2012-04-03",
		"3rd of April 2012": "2012-04-03", "Tue, 3 Apr 2012": "2012-04-03", "3. März 2012": "2012-03-03",
		"1er avril 2012": "2012-04-01", "3 de abril de 2012": "2012-04-03", "3 de março de 2012": "2012-03-03",
		"3 kwietnia 2012 r.": "2012-04-03", "3 квітня 2012 року": "2012-04-03", "3 апреля 2012 г.": "2012-04-03",
		"3. dubna 2012": "2012-04-03", "ngày 3 tháng 4 năm 2012": "2012-04-03", "3 أبريل 2012": "2012-04-03", "3 Abriil 2012": "2012-04-03",
		"24 Dec 61": "1961-12-24",
		"31/4/2012": "", "2012": "", "soon": "", "3/4": "", "April 2012": "", "0/0/2012": "", "12345678": "", "": "",
		"call on 3 April 2012 at school": "",
	} {
		got, ok := intake.ReadDate(written, intake.DayFirst, "2026-11-24")
		assert.Equal(t, want, got, written)
		assert.Equal(t, want != "", ok, written)
	}
	got, _ := intake.ReadDate("3/4/2012", intake.MonthFirst, "2026-11-24")
	assert.Equal(t, roster.Date("2012-03-04"), got)
	got, _ = intake.ReadDate("3.4.2012", intake.MonthFirst, "2026-11-24")
	assert.Equal(t, roster.Date("2012-04-03"), got, "with points the day is first")
}

func TestTheOrderOfAColumn(t *testing.T) {
	for name, c := range map[string]struct {
		cells   []string
		order   intake.DateOrder
		certain bool
	}{
		"a day above twelve":         {[]string{"3/4/2012", "14/9/2012"}, intake.DayFirst, true},
		"a month's place above it":   {[]string{"3/4/2012", "9/14/2012"}, intake.MonthFirst, true},
		"both":                       {[]string{"14/9/2012", "9/14/2012"}, "", false},
		"none":                       {[]string{"3/4/2012"}, "", false},
		"only the same twice":        {[]string{"4/4/2012"}, intake.DayFirst, true},
		"other forms decide nothing": {[]string{"2012-04-03", "3.4.2012", "", "soon"}, intake.DayFirst, true},
	} {
		t.Run(name, func(t *testing.T) {
			order, certain, _ := intake.OrderOf(c.cells)
			assert.Equal(t, c.order, order)
			assert.Equal(t, c.certain, certain)
		})
	}
}

// Whatever a cell holds, a date that is read is one.
func TestDatesThatAreReadAreDates(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cell := rapid.OneOf(rapid.String(), rapid.StringMatching(`\d{1,4}[-/. ]\d{1,2}[-/. ]\d{1,4}`)).Draw(t, "cell")
		got, ok := intake.ReadDate(cell, rapid.SampledFrom(intake.DateOrders).Draw(t, "order"), "2026-11-24")
		if ok {
			assert.True(t, got.Valid())
		} else {
			assert.Empty(t, got)
		}
	})
}

func TestHeadingsOfGuardians(t *testing.T) {
	guess := func(headings ...string) []intake.Column { return intake.Guess(headings, nil, nil) }
	assert.Equal(t, []intake.Column{
		"full name", "guardian 1: full name", "guardian 1: mobile", "guardian 2: email", "guardian 1: relation", "guardian 2: lives with",
	}, guess("Pupil", "Mother", "Mother's mobile", "Father email", "Relationship of mother", "Lives with father"))
	assert.Equal(t, []intake.Column{
		"guardian 2: mobile", "guardian 1: mobile", "guardian 3: landline", "",
	}, guess("Contact 2 phone", "Emergency contact phone", "Parent 3 home phone", "Parent 3 shoe size"))
	assert.Equal(t, []intake.Column{"guardians", "guardians"}, guess("Guardians", "Parent ID"))
	assert.Equal(t, []intake.Column{"mobile", "email"}, guess("Contact number", "E-Mail"))
}

func TestWhereTheHeadingsAre(t *testing.T) {
	for name, c := range map[string]struct {
		rows        [][]string
		first, last int
	}{
		"the first row":       {[][]string{{"Name", "Phone"}, {"Bo", "07700 900827"}}, 0, 0},
		"below titles":        {[][]string{{"Harrow Lock"}, {"Autumn", "Term"}, {"Name", "Phone"}, {"Bo", "1"}}, 2, 2},
		"unknown words":       {[][]string{{"Wer", "Wo"}, {"Bo", "guardian"}}, 0, 0},
		"a single column":     {[][]string{{"Name"}, {"Bo Venn"}}, 0, 0},
		"in two rows":         {[][]string{{"", "Mother", ""}, {"Pupil", "Name", "Mobile"}, {"Bo", "Di", "1"}}, 0, 1},
		"nothing":             {[][]string{}, 0, 0},
		"a row that has more": {[][]string{{"Name", "x", "y"}, {"Surname", "Forename", "Email"}}, 1, 1},
	} {
		t.Run(name, func(t *testing.T) {
			first, last := intake.FindHeadings(c.rows)
			assert.Equal(t, []int{c.first, c.last}, []int{first, last})
		})
	}
}
