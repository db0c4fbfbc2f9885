package attachment_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
)

func TestCheck(t *testing.T) {
	png := "\x89PNG\r\n\x1a\n rest"
	for name, c := range map[string]struct{ file, content, media, problem string }{
		"a PDF":                     {"map.pdf", "%PDF-1.7", "application/pdf", ""},
		"capitals":                  {"MAP.PNG", png, "image/png", ""},
		"a sheet":                   {"rota.xlsx", "PK\x03\x04…", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", ""},
		"old text":                  {"list.csv", "name;caf\xe9", "text/csv", ""},
		"a sound":                   {"call.wav", "RIFF1234WAVEfmt ", "audio/wav", ""},
		"a picture that is a PDF":   {"map.pdf", png, "", "map.pdf is named like a pdf file, but its content is that of a png file"},
		"a program in disguise":     {"photo.jpg", "MZ\x90\x00", "", "its content is that of a program"},
		"a sheet that is text":      {"rota.xlsx", "a,b", "", "its content is text"},
		"text that is a picture":    {"notes.txt", png, "", "its content is that of a png file"},
		"a sound that is a picture": {"call.wav", "RIFF1234WEBPVP8 ", "", "that of a webp file"},
		"a program":                 {"setup.exe", "MZ", "", "exe files cannot be sent"},
		"a script":                  {"a.html", "<script>", "", "html files cannot be sent"},
		"no ending":                 {"README", "x", "", "no ending"},
		"empty":                     {"a.pdf", "", "", "a.pdf is empty"},
		"too large":                 {"a.pdf", "%PDF-" + strings.Repeat("x", attachment.LargestFile), "", "at most 21.0 MB"},
	} {
		t.Run(name, func(t *testing.T) {
			media, err := attachment.Check(c.file, []byte(c.content))
			if c.problem != "" {
				require.ErrorContains(t, err, c.problem)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.media, media)
		})
	}
}

func TestName(t *testing.T) {
	assert.Equal(t, "a_b_.pdf", attachment.Name("a/b\n.pdf"))
	long := attachment.Name(strings.Repeat("ł", 300) + ".pdf")
	assert.Len(t, []rune(long), attachment.LongestName)
	assert.True(t, strings.HasSuffix(long, ".pdf"), "its ending stays")
}

func TestSizes(t *testing.T) {
	twelve := make([]attachment.File, 12)
	for i := range twelve {
		twelve[i].Size = 5_000_000
	}
	assert.Equal(t, int64(60_000_000), attachment.Sum(twelve))
	assert.Equal(t, []string{"12 bytes", "2 kB", "1.5 MB"}, []string{
		attachment.Size(12), attachment.Size(1500), attachment.Size(1_500_000),
	})
}

func TestNamesAreMadeFitToBeSent(t *testing.T) {
	for name, want := range map[string]string{
		"map.pdf": "map.pdf", "a/b:c.pdf": "a_b_c.pdf", "gepj\u202egnp.exe": "gepjgnp.exe", "\u2066x\u2069.pdf": "x.pdf",
		"می\u200cخواهم.pdf":               "می\u200cخواهم.pdf",
		strings.Repeat("x", 300) + ".pdf": strings.Repeat("x", 196) + ".pdf",
		"a." + strings.Repeat("y", 300):   "a." + strings.Repeat("y", 198),
		strings.Repeat("z", 300):          strings.Repeat("z", 200),
		"bad\xffname.pdf":                 "bad_name.pdf",
	} {
		assert.Equal(t, want, attachment.Name(name))
	}
}

func FuzzCheck(f *testing.F) {
	f.Add("a.pdf", []byte("%PDF-1.7"))
	f.Add("..", []byte("RIFF"))
	f.Fuzz(func(t *testing.T, name string, content []byte) {
		clean := attachment.Name(name)
		assert.NotContains(t, clean, "/")
		assert.LessOrEqual(t, len([]rune(clean)), attachment.LongestName)
		assert.NotContains(t, clean, "\u202e")
		media, err := attachment.Check(clean, content)
		assert.Equal(t, err != nil, media == "")
	})
}
