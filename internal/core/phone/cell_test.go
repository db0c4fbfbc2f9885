package phone_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/phone"
)

func TestNumbersOfACell(t *testing.T) {
	for cell, want := range map[string][]phone.Typed{
		"07700 900827":                 {{Number: "07700 900827"}},
		"07700 900827; 07700 900828":   {{Number: "07700 900827"}, {Number: "07700 900828"}},
		"07700 900827 / 07700 900828":  {{Number: "07700 900827"}, {Number: "07700 900828"}},
		"07700900827/07700900828":      {{Number: "07700900827"}, {Number: "07700900828"}},
		"07700 900827, 07700 900828":   {{Number: "07700 900827"}, {Number: "07700 900828"}},
		"07700 900827 or 07700 900828": {{Number: "07700 900827"}, {Number: "07700 900828"}},
		"07700 900827 (mum) / 07700 900828 (dad)": {
			{Number: "07700 900827", Remark: "mum"}, {Number: "07700 900828", Remark: "dad"},
		},
		"01632 960009 ext. 9":       {{Number: "01632 960009", Extension: "9"}},
		"01632 960009x12":           {{Number: "01632 960009", Extension: "12"}},
		"tel:+441632960009;ext=9":   {{Number: "+441632960009", Extension: "9", Remark: "tel"}},
		"Work: 01632 960009":        {{Number: "01632 960009", Remark: "Work"}},
		"01632 960009 work":         {{Number: "01632 960009", Remark: "work"}},
		"Mum's mobile 07700 900827": {{Number: "07700 900827", Remark: "Mum's mobile"}},
		"+49 (0) 171 5550123":       {{Number: "+49 (0) 171 5550123"}},
		"+49 171/5550123":           {{Number: "+49 171/5550123"}},
		"020 7946 0001/2":           {{Number: "020 7946 0001/2"}},
		"+380 67 555 01 23 (мама)":  {{Number: "+380 67 555 01 23", Remark: "мама"}},
		"":                          nil,
		"none":                      {{Number: "none"}},
	} {
		t.Run(cell, func(t *testing.T) { assert.Equal(t, want, phone.Cell(cell)) })
	}
}

func TestMangledNumbers(t *testing.T) {
	for cell, want := range map[string]bool{
		"4,91712E+11": true, "4.47700900E+11": true, " 4E11 ": true, "07700 900827": false, "E12": false, "": false,
	} {
		assert.Equal(t, want, phone.Mangled(cell), cell)
	}
}

func FuzzCell(f *testing.F) {
	f.Add("07700 900827 (mum) / 07700 900828 work ext. 9")
	f.Fuzz(func(t *testing.T, cell string) {
		for _, one := range phone.Cell(cell) {
			assert.NotEmpty(t, one.Number)
		}
	})
}

func TestExtensions(t *testing.T) {
	with := phone.WithExtension("+441632960009", "9")
	assert.Equal(t, "+441632960009;ext=9", with)
	assert.Equal(t, with, phone.WithExtension(with, ""))
	assert.Equal(t, "+44 1632 960009 ext. 9", phone.Display(with))
	parsed, err := phone.Parse(with, "GB")
	assert.NoError(t, err)
	assert.Equal(t, with, parsed)
	assert.True(t, phone.HasExtension(with))
	assert.False(t, phone.HasExtension("+441632960009"))
}
