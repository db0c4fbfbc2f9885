package incoming

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
)

// ErrNotOurs means that something was sent to a number that is none of ours.
var ErrNotOurs = errors.New("it was sent to a number that is none of ours")

// Item is something that somebody sent to us.
type Item struct {
	Via     delivery.Via
	Key     string // the carrier's own, by which it is known when it comes twice
	Channel roster.Channel
	From    string // a number in E.164 or a mailbox; "" of what stands on a personal page
	// Person wrote it, for certain: on their personal page. It is 0 otherwise.
	Person    roster.PersonID
	To        string // which of ours
	Name      string // of whoever sent it, as an email says; not to be relied on
	Delivery  string // the key of the delivery that it answers, "" when it carries none
	Subject   string
	Text      string // what its writer wrote
	Folded    string // what was folded away; see Fold
	Automatic bool
	Files     []File
	Dropped   []string // what came besides and is not kept, in words
	At        time.Time
}

// File came with an item.
type File struct {
	Name    string
	Type    string // media type
	Content []byte
}

// Limits of one item.
const (
	LongestText  = 20_000 // characters; what is longer is cut
	LongestFrom  = 254    // bytes (RFC 5321 §4.5.3.1.3)
	MostFiles    = 20
	LargestFiles = 20 << 20 // bytes, all of them
)

// Cut is a text of at most LongestText characters, and whether anything was cut off.
func Cut(text string) (string, bool) {
	runes := []rune(text)
	if len(runes) <= LongestText {
		return text, false
	}
	return string(runes[:LongestText]), true
}

// Header is what tells an automatic email from one that somebody wrote.
type Header struct {
	AutoSubmitted string
	Precedence    string
	List          bool // it comes from a list (RFC 2919)
	Nobody        bool // its envelope has no sender (RFC 5321 §4.5.5)
}

// oldest is how long ago something can have been sent to us.
const oldest = 30 * 24 * time.Hour

// Bounded is an item within its limits: without characters that show nothing, its text
// cut, its time not in the future, and without files of kinds that nobody should open.
func (i Item) Bounded(now time.Time) Item {
	if i.At.IsZero() || i.At.After(now) || now.Sub(i.At) > oldest {
		i.At = now
	}
	var cut, cutBelow bool
	i.Text, cut = Cut(entry.CleanText(i.Text))
	i.Folded, cutBelow = Cut(entry.CleanText(i.Folded))
	if cut || cutBelow {
		i.Dropped = append(i.Dropped, fmt.Sprintf("what is beyond %d characters", LongestText))
	}
	i.Subject, _ = Cut(entry.CleanText(i.Subject))
	files, room := i.Files, int64(LargestFiles)
	i.Files = nil
	for _, f := range files {
		f.Name = named(f)
		kind, err := attachment.Check(f.Name, f.Content)
		switch {
		case err != nil:
			i.Dropped = append(i.Dropped, f.Name+", which is of a kind that is not kept, or is not what its name says")
		case len(i.Files) == MostFiles || int64(len(f.Content)) > room:
			i.Dropped = append(i.Dropped, f.Name+", which was too much")
		default:
			f.Type = kind
			room -= int64(len(f.Content))
			i.Files = append(i.Files, f)
		}
	}
	return i
}

// endings of files that come without a name, by media type.
var endings = map[string]string{
	"image/jpeg": "jpg", "image/png": "png", "image/gif": "gif", "image/webp": "webp", "audio/wav": "wav",
	"audio/x-wav": "wav", "audio/mpeg": "mp3", "application/pdf": "pdf", "text/vcard": "vcf", "text/plain": "txt",
}

// named is the name of a file, without folders; one that has none is called after what
// it is.
func named(f File) string {
	name := strings.TrimSpace(f.Name[strings.LastIndexAny(f.Name, `/\`)+1:])
	if runes := []rune(name); len(runes) > attachment.LongestName {
		name = string(runes[len(runes)-attachment.LongestName:])
	}
	if name != "" {
		return name
	}
	kind, _, _ := strings.Cut(strings.ToLower(f.Type), ";")
	what, _, _ := strings.Cut(kind, "/")
	if ending := endings[kind]; ending != "" {
		return map[string]string{"image": "picture", "audio": "sound"}[what] + "." + ending
	}
	return "file"
}
