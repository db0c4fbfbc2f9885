// Package attachment says which files can be sent, by name, content and size.
package attachment

import (
	"bytes"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"unicode"
)

// File is something that was uploaded to go with a message.
type File struct {
	Hash string `json:"hash" pattern:"^[0-9a-f]{64}$" doc:"SHA-256 of the content"`
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Type string `json:"type" doc:"Media type"`
	Size int64  `json:"size" minimum:"0" doc:"Bytes"`
	// Language is "" for everybody.
	Language string `json:"language,omitempty" maxLength:"40" doc:"Whose readers it is for, BCP 47; empty for everybody"`
}

// Limits of one message.
const (
	MostFiles   = 20
	LargestFile = 20 << 20
	LongestName = 200
)

// kind is a kind of file: its endings, its media type, and how its content
// begins; nil for text.
type kind struct {
	endings []string
	media   string
	begins  [][]byte
}

func starts(list ...string) [][]byte {
	out := make([][]byte, len(list))
	for i, s := range list {
		out[i] = []byte(s)
	}
	return out
}

var (
	zipped = starts("PK\x03\x04", "PK\x05\x06")
	ole    = starts("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")
)

// kinds are the files that can be sent. Programs and scripts are not among
// them: mail servers refuse them, and nobody should open one from a list.
var kinds = []kind{
	{[]string{"pdf"}, "application/pdf", starts("%PDF-")},
	{[]string{"png"}, "image/png", starts("\x89PNG\r\n\x1a\n")},
	{[]string{"jpg", "jpeg"}, "image/jpeg", starts("\xff\xd8\xff")},
	{[]string{"gif"}, "image/gif", starts("GIF87a", "GIF89a")},
	{[]string{"webp"}, "image/webp", starts("RIFF")},
	{[]string{"wav"}, "audio/wav", starts("RIFF")},
	{[]string{"mp3"}, "audio/mpeg", starts("ID3", "\xff\xfb", "\xff\xf3", "\xff\xf2")},
	{[]string{"docx"}, "application/vnd.openxmlformats-officedocument.wordprocessingml.document", zipped},
	{[]string{"xlsx"}, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", zipped},
	{[]string{"pptx"}, "application/vnd.openxmlformats-officedocument.presentationml.presentation", zipped},
	{[]string{"odt"}, "application/vnd.oasis.opendocument.text", zipped},
	{[]string{"ods"}, "application/vnd.oasis.opendocument.spreadsheet", zipped},
	{[]string{"odp"}, "application/vnd.oasis.opendocument.presentation", zipped},
	{[]string{"zip"}, "application/zip", zipped},
	{[]string{"doc"}, "application/msword", ole},
	{[]string{"xls"}, "application/vnd.ms-excel", ole},
	{[]string{"ppt"}, "application/vnd.ms-powerpoint", ole},
	{[]string{"txt"}, "text/plain", nil},
	{[]string{"csv"}, "text/csv", nil},
	{[]string{"ics"}, "text/calendar", nil},
	{[]string{"vcf"}, "text/vcard", nil},
	{[]string{"gpx"}, "application/gpx+xml", nil},
}

// Check finds the media type of a file, or says why it cannot be sent.
func Check(name string, content []byte) (mediaType string, err error) {
	ending := strings.ToLower(strings.TrimPrefix(filepath.Ext(name), "."))
	switch {
	case len(content) == 0:
		return "", fmt.Errorf("%s is empty", name)
	case len(content) > LargestFile:
		return "", fmt.Errorf("%s has %s, and a file can have at most %s", name, Size(int64(len(content))), Size(LargestFile))
	}
	for _, k := range kinds {
		if !slices.Contains(k.endings, ending) {
			continue
		}
		if !k.fits(content) {
			return "", fmt.Errorf(
				"%s is named like a %s file, but its content is %s; give it its true ending, or save it anew", name, ending,
				what(content),
			)
		}
		return k.media, nil
	}
	if ending == "" {
		return "", fmt.Errorf("%s has no ending that says what it is", name)
	}
	return "", fmt.Errorf(
		"%s files cannot be sent; send %s as PDF, or put it where people can fetch it and send a link", ending, name,
	)
}

func (k kind) fits(content []byte) bool {
	if k.begins == nil {
		return isText(content)
	}
	if !slices.ContainsFunc(k.begins, func(b []byte) bool { return bytes.HasPrefix(content, b) }) {
		return false
	}
	switch k.media { // two kinds share a container (RIFF, its form type at byte 8)
	case "image/webp":
		return len(content) > 12 && string(content[8:12]) == "WEBP"
	case "audio/wav":
		return len(content) > 12 && string(content[8:12]) == "WAVE"
	}
	return true
}

func isText(content []byte) bool {
	const looked = 4096
	head := content[:min(len(content), looked)]
	return !bytes.ContainsRune(head, 0) && !binary(head)
}

// binary reports whether a text begins like one of the other kinds.
func binary(head []byte) bool {
	return slices.ContainsFunc(kinds, func(k kind) bool {
		return slices.ContainsFunc(k.begins, func(b []byte) bool { return bytes.HasPrefix(head, b) })
	})
}

// what names a content by how it begins.
func what(content []byte) string {
	for _, k := range kinds {
		if k.begins != nil && k.fits(content) {
			return "that of a " + k.endings[0] + " file"
		}
	}
	if bytes.HasPrefix(content, []byte("MZ")) || bytes.HasPrefix(content, []byte("\x7fELF")) {
		return "that of a program"
	}
	if isText(content) {
		return "text"
	}
	return "something else"
}

// Picture reports whether a media type can be shown within an email.
func Picture(mediaType string) bool { return strings.HasPrefix(mediaType, "image/") }

// longestEnding is the most characters of an ending that a long name keeps.
const longestEnding = 20

// Name makes a name fit to be sent: without a path, without control characters
// and without those that turn the direction of writing, by which a program can
// look like a picture.
func Name(name string) string {
	name = strings.TrimSpace(strings.Map(func(c rune) rune {
		switch {
		case unicode.Is(unicode.Cf, c) && c != '\u200c' && c != '\u200d': // joiners, which some scripts need
			return -1
		case unicode.IsControl(c) || strings.ContainsRune(`\/:"<>|?*`, c):
			return '_'
		}
		return c
	}, strings.ToValidUTF8(name, "_")))
	if r := []rune(name); len(r) > LongestName {
		ending := []rune(filepath.Ext(name))
		if len(ending) > longestEnding {
			ending = nil
		}
		name = string(r[:LongestName-len(ending)]) + string(ending)
	}
	return name
}

// Size writes a number of bytes the way people read it.
func Size(n int64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d bytes", n)
	case n < 1_000_000:
		return fmt.Sprintf("%d kB", (n+500)/1000)
	}
	return fmt.Sprintf("%.1f MB", float64(n)/1e6)
}

// Sum is the bytes of files together.
func Sum(files []File) int64 {
	var sum int64
	for _, f := range files {
		sum += f.Size
	}
	return sum
}
