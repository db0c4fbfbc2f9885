package typeset

import (
	"encoding/binary"
	"errors"
	"fmt"

	woff "github.com/tdewolff/font"
)

// unpack turns WOFF2 (W3C) into an OpenType font.
func unpack(packed []byte) ([]byte, error) {
	plain, err := woff.ParseWOFF2(packed)
	if err != nil {
		return nil, err
	}
	return widen(plain)
}

// widen rewrites the short index of glyphs as a long one (OpenType, “loca”).
// Unpacked glyphs take more room than they did before, and the short index,
// halves of offsets in 16 bits, can run over. Since it only ever grows, what
// was lost is known.
func widen(sfnt []byte) ([]byte, error) {
	head, err := table(sfnt, "head")
	if err != nil {
		return nil, err
	}
	const format = 50 // where “head” says which index it is
	if len(head.content) < format+2 {
		return nil, errors.New("the table head is too short")
	}
	loca, err := table(sfnt, "loca")
	if err != nil || binary.BigEndian.Uint16(head.content[format:]) == 1 {
		return sfnt, err
	}
	const round = 1 << 16
	var long []byte
	last, lost := uint32(0), uint32(0)
	for i := 0; i+2 <= len(loca.content); i += 2 {
		half := uint32(binary.BigEndian.Uint16(loca.content[i:]))
		if half < last {
			lost += round
		}
		last = half
		long = binary.BigEndian.AppendUint32(long, 2*(lost+half))
	}
	out := append([]byte{}, sfnt...)
	binary.BigEndian.PutUint16(out[head.offset+format:], 1)
	binary.BigEndian.PutUint32(out[loca.entry+8:], uint32(len(out)))
	binary.BigEndian.PutUint32(out[loca.entry+12:], uint32(len(long)))
	return append(out, long...), nil
}

// tableAt is a table of an OpenType font: its place in the directory, and in the file.
type tableAt struct {
	entry, offset int
	content       []byte
}

func table(sfnt []byte, tag string) (tableAt, error) {
	const header, entry = 12, 16
	if len(sfnt) < header {
		return tableAt{}, errors.New("the font is too short")
	}
	for i := range int(binary.BigEndian.Uint16(sfnt[4:])) {
		at := header + i*entry
		if at+entry > len(sfnt) {
			break
		}
		if string(sfnt[at:at+4]) != tag {
			continue
		}
		from, length := int(binary.BigEndian.Uint32(sfnt[at+8:])), int(binary.BigEndian.Uint32(sfnt[at+12:]))
		if from+length > len(sfnt) {
			break
		}
		return tableAt{at, from, sfnt[from : from+length]}, nil
	}
	return tableAt{}, fmt.Errorf("the font has no table %s", tag)
}
