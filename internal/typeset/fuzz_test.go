package typeset

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sfnt is a font with a short index of glyphs.
func sfnt(halves ...uint16) []byte {
	var loca []byte
	for _, h := range halves {
		loca = binary.BigEndian.AppendUint16(loca, h)
	}
	head := make([]byte, 54)
	file := make([]byte, 12+2*16)
	binary.BigEndian.PutUint16(file[4:], 2)
	for i, t := range []struct {
		tag     string
		content []byte
	}{{"head", head}, {"loca", loca}} {
		at := 12 + i*16
		copy(file[at:], t.tag)
		binary.BigEndian.PutUint32(file[at+8:], uint32(len(file)))
		binary.BigEndian.PutUint32(file[at+12:], uint32(len(t.content)))
		file = append(file, t.content...)
	}
	return file
}

func TestWiden(t *testing.T) {
	for _, c := range []struct {
		name   string
		halves []uint16
		want   []uint32
	}{
		{"an index that is whole", []uint16{0, 10, 10, 300}, []uint32{0, 20, 20, 600}},
		{"one that ran over", []uint16{0, 60000, 4464, 4464}, []uint32{0, 120000, 140000, 140000}},
		{"twice", []uint16{0, 65535, 65534, 65533}, []uint32{0, 131070, 262140, 393210}},
	} {
		t.Run(c.name, func(t *testing.T) {
			out, err := widen(sfnt(c.halves...))
			require.NoError(t, err)
			loca, err := table(out, "loca")
			require.NoError(t, err)
			var got []uint32
			for i := 0; i < len(loca.content); i += 4 {
				got = append(got, binary.BigEndian.Uint32(loca.content[i:]))
			}
			assert.Equal(t, c.want, got)
			again, err := widen(out)
			require.NoError(t, err)
			assert.Equal(t, out, again, "a long index stays")
		})
	}
}

func FuzzWiden(f *testing.F) {
	f.Add(sfnt(0, 60000, 4464))
	f.Add([]byte("no font"))
	f.Fuzz(func(t *testing.T, file []byte) {
		out, err := widen(file)
		if err == nil {
			assert.GreaterOrEqual(t, len(out), len(file))
		}
	})
}

func FuzzSpans(f *testing.F) {
	f.Add("U+??,U+131,U+152-153")
	f.Add("U+-")
	f.Fuzz(func(t *testing.T, text string) {
		list, err := spans(text)
		if err == nil {
			assert.NotEmpty(t, list)
		}
	})
}
