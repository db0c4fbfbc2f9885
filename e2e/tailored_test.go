package e2e_test

import (
	"archive/zip"
	"bytes"
	"io"
	"testing"

	"github.com/stretchr/testify/require"

	"upperlantern/internal/testkit"
)

// speakers are people who are called only, or get emails only, in three languages.
const speakers = `Id,Name,Role,Language,Landline,Email,Groups
P1,Piotr Zielony,member,pl,01632 960418,,Crew
P2,Kinga Zielony,member,pl,,kinga@example.org,Crew
A1,Rania Haddad,member,ar,01632 960417,,Crew
A2,Sami Haddad,member,ar,,sami@example.org,Crew
E1,Lena Achterberg,member,en,01632 960188,lena@example.org,Crew
`

// seconds is a WAV file (RIFF WAVE, mono, 8 bits, 8,000 samples a second).
func seconds(n int) []byte {
	const rate = 8000
	long := func(v int) []byte { return []byte{byte(v), byte(v >> 8), byte(v >> 16), byte(v >> 24)} }
	wav := append([]byte("RIFF"), long(36+n*rate)...)
	wav = append(append(wav, "WAVEfmt "...), long(16)...)
	wav = append(append(wav, 1, 0, 1, 0), long(rate)...)
	wav = append(append(wav, long(rate)...), 1, 0, 8, 0)
	wav = append(append(wav, "data"...), long(n*rate)...)
	return append(wav, make([]byte, n*rate)...)
}

// translated is a zip of files in which a translator changed some words.
func translated(t *testing.T, bundle []byte, from, to string) []byte {
	files, err := zip.NewReader(bytes.NewReader(bundle), int64(len(bundle)))
	require.NoError(t, err)
	var back bytes.Buffer
	w := zip.NewWriter(&back)
	changed := 0
	for _, file := range files.File {
		r, err := file.Open()
		require.NoError(t, err)
		words, err := io.ReadAll(r)
		require.NoError(t, err)
		changed += bytes.Count(words, []byte(from))
		out, err := w.Create(file.Name)
		require.NoError(t, err)
		_, err = out.Write(bytes.ReplaceAll(words, []byte(from), []byte(to)))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	require.Equal(t, 1, changed)
	return back.Bytes()
}

// Polish readers get their leaflet and hear their recording; a call whose copy no
// voice speaks is not made; what translators give back in one file is taken.
func TestWhatIsForReadersOfALanguage(t *testing.T) {
	v := signedIn(t, speakers, 0)
	v.goes("/settings?of=sending")
	v.clicks(".voiceless label", "Arabic")
	v.clicks("button", "Save how messages are sent")
	v.sees("[role=status]", "Saved")

	v.goes("/write/new")
	v.picks(who, "Crew")
	v.type_(`input[aria-label="Subject"]`, "Training is on as usual.")
	v.type_(email, "Training is cancelled today.")
	v.sees("[role=status]", "Draft kept")

	v.element(`input[aria-label="Add files"]`).MustSetFiles(
		testkit.Write(t, "what to bring.txt", []byte("Boots")), testkit.Write(t, "co zabrać.txt", []byte("Buty")),
	)
	v.sees(named("Files"), "co zabrać.txt")
	v.chooses("Who gets co zabrać.txt", "for readers of Polish")

	voice := ".face:has([aria-label='Voice'])"
	v.clicks(voice+" header button", "^Change$")
	v.chooses("Whose recording", "Polish")
	v.element(`input[aria-label="Recording for a language"]`).MustSetFiles(testkit.Write(t, "po polsku.wav", seconds(7)))
	v.sees(named("Recordings by language"), `Readers of Polish hear po polsku\.wav, 7 s`)

	copies := named("Copies")
	v.clicks(copies+" button", "Draft all missing lines")
	v.sees(copies+" [role=status]", "lines? filled")
	v.clicks(copies+" button", "Who gets which")
	v.chooses("A copy that nobody has read goes to", "its readers all the same")
	v.chooses("A call whose copy no voice speaks", "is not made: their next step instead")
	v.sees(".reach", "no voice speaks their language")

	saved := v.saves()
	v.clicks(copies+" button", "Save all languages as XLIFF")
	bundle := translated(t, saved(), "Dzisiejszy trening jest odwołany.", "Treningu dziś nie ma.")
	v.element(`input[aria-label="Take files that came back"]`).MustSetFiles(testkit.Write(t, "copies.zip", bundle))
	v.sees(copies+" [role=status]", "Polish: 1 line taken, Arabic: 0 lines taken")

	v.clicks("button", "Send to 4 people…")
	v.clicks(finalCheck+" button", "Send to 4 people")
	v.sees(named("Figures"), `4\s*reached`)
	v.goes("/bench")
	v.picks("Name", "Piotr Zielony")
	v.sees("section.phone", "plays a recording")
	v.picks("Name", "Kinga Zielony")
	v.sees("section.mailbox", `Treningu dziś nie ma[\s\S]*co zabrać\.txt`)
	v.picks("Name", "Sami Haddad")
	v.sees("section.mailbox", `what to bring\.txt`)
	v.picks("Name", "Rania Haddad")
	v.sees("section.phone", "Nothing has arrived on this phone")
	require.NotContains(t, v.element("section.mailbox").MustText(), "co zabrać.txt")
}
