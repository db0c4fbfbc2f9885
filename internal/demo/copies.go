package demo

import (
	"cmp"
	"context"
	"path"
	"strings"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/message"
	"upperlantern/internal/reading"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// glossary is how Quillmere says its terms, by language.
var glossary = map[string]map[string]string{
	"Harrow Lock": {"pl": "Harrow Lock", "ar": "Harrow Lock", "vi": "Harrow Lock", "uk": "Harrow Lock", "es": "Harrow Lock", "zh-Hans": "Harrow Lock", "so": "Harrow Lock", "pt-PT": "Harrow Lock", "pt-BR": "Harrow Lock"},
	"capsize drill": {
		"pl": "ćwiczenie wywrotki", "ar": "تدريب انقلاب القارب", "vi": "buổi tập lật thuyền", "es": "simulacro de vuelco",
		"uk": "тренування з перевертання", "zh-Hans": "翻船演练", "pt-PT": "treino de viragem", "pt-BR": "treino de virada",
		"so": "layliga qallibaadda",
	},
	"Junior squads": {"pl": "grupy juniorów", "ar": "فرق الناشئين", "es": "grupos juveniles", "uk": "групи юніорів", "zh-Hans": "青少年队"},
}

func fillGlossary(ctx context.Context, s *store.Store) error {
	for term, said := range glossary {
		for tag, says := range said {
			t := copies.Term{Term: term, Language: tag, Says: says}
			if says == term {
				t.Note = "a place: it stays as it is"
			}
			if err := s.SetTerm(ctx, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// translator writes copies of one message for an account.
type translator struct {
	ctx     context.Context
	service *translation.Service
	by      access.Principal
	message int64
}

// fill drafts the missing lines of a copy.
func (t translator) fill(tag string) error {
	_, err := t.service.Draft(t.ctx, t.by, t.message, tag, true)
	return err
}

// write changes filled lines: change returns what a line is to say, and whether
// somebody read it.
func (t translator) write(tag string, change func(original, target string) (string, bool)) error {
	c, err := t.service.Open(t.ctx, t.by, t.message, tag)
	if err != nil {
		return err
	}
	var changes []translation.Change
	for _, l := range c.Lines {
		text, checked := change(l.Text, l.Target.Text)
		changes = append(changes, translation.Change{Key: l.Key(), Was: l.Target.Text, Text: text, Checked: checked && text != ""})
	}
	_, err = t.service.Write(t.ctx, t.by, t.message, tag, changes)
	return err
}

// read drafts a copy and checks every line of it.
func (t translator) read(tag string) error {
	if err := t.fill(tag); err != nil {
		return err
	}
	return t.write(tag, func(_, target string) (string, bool) { return target, true })
}

// outingCopies are those of the message that has gone out: two that were read.
func outingCopies(t translator) error {
	for tag, said := range map[string]map[string]string{
		"pl": {
			"Naya Osei, head coach": "Naya Osei, główna trenerka", "your crew": "waszej osady",
			"Sat outing moved: meet Harrow Lock 08:30, not the boathouse.": "Sobotni wypad: spotkanie przy Harrow Lock 08:30, nie przy hangarze.",
			"Warm layer + drink for {1}.":                                  "Coś ciepłego i napój dla {1}.", "Park east side - Naya Osei": "Parking po wsch. stronie - Naya Osei",
		},
		"ar": {
			"Naya Osei, head coach": "Naya Osei، كبيرة المدربين", "your crew": "طاقمكم",
			"Sat outing moved: meet Harrow Lock 08:30, not the boathouse.": "رحلة السبت: اللقاء عند Harrow Lock الساعة 08:30 وليس عند المرفأ.",
			"Warm layer + drink for {1}.":                                  "ملابس دافئة ومشروب لـ{1}.", "Park east side - Naya Osei": "المواقف شرقًا - Naya Osei",
		},
	} {
		if err := t.fill(tag); err != nil {
			return err
		}
		err := t.write(tag, func(original, target string) (string, bool) {
			if target == "" {
				target = said[original]
			}
			return target, true
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// earlierDrill is what the capsize drill said before it was changed.
func earlierDrill(d message.Draft) message.Draft {
	d.Email = d.Email.Map(func(text string) string {
		return strings.NewReplacer("17:45", "17:30", "a bag for wet kit", "a bag for your wet kit").Replace(text)
	})
	return d
}

// earlierLines are those of the earlier drill that were read then.
var earlierLines = map[string]map[string]string{
	"uk": {
		"a bag for your wet kit": "торбинку для ваших мокрих речей",
		"Thursday’s session is the {1}capsize drill{/1} at the pool – doors open at 17:30.": "Заняття у четвер – це {1}тренування з перевертання{/1} в басейні, двері відчиняються о 17:30.",
	},
	"pt-BR": {
		"Thursday’s session is the {1}capsize drill{/1} at the pool – doors open at 17:30.": "A sessão de quinta-feira é o {1}treino de virada{/1} na piscina – as portas abrem às 17:30.",
	},
}

// drillCopies are those of the draft, one in each state: read, with one that is
// adapted, one whose original changed, one doubtful, one that nobody read, and one
// that is only begun. Change makes the draft what it is now.
func drillCopies(t translator, change func() error) error {
	if err := t.fill("uk"); err != nil {
		return err
	}
	err := t.write("uk", func(original, target string) (string, bool) {
		return cmp.Or(target, earlierLines["uk"][original]), true
	})
	if err != nil {
		return err
	}
	if err := t.write("pt-BR", func(original, _ string) (string, bool) {
		return earlierLines["pt-BR"][original], true
	}); err != nil {
		return err
	}
	if err := change(); err != nil {
		return err
	}
	for _, tag := range []string{"pl", "zh-Hans"} {
		if err := t.read(tag); err != nil {
			return err
		}
	}
	for _, tag := range []string{"ar", "pt-BR"} {
		if err := t.fill(tag); err != nil {
			return err
		}
	}
	err = t.write("ar", func(original, target string) (string, bool) {
		if strings.Contains(original, "17:45") {
			return strings.ReplaceAll(target, "17:45", "17:15"), false
		}
		return target, true
	})
	if err != nil {
		return err
	}
	return t.write("vi", func(original, _ string) (string, bool) {
		return map[string]string{
			"Capsize drill on Thursday": "Buổi tập lật thuyền vào thứ Năm", "Dear {1},": "{1} thân mến,",
		}[original], true
	})
}

// translateDrill keeps the capsize drill as a draft with its copies.
func translateDrill(
	ctx context.Context, i *app.Instance, by access.Principal, d message.Draft,
) error {
	err := fillGlossary(ctx, i.Store)
	if err != nil {
		return err
	}
	if d.Files, err = drillFiles(ctx, i, by.ID); err != nil {
		return err
	}
	m, err := i.Store.AddDraft(ctx, by.ID, earlierDrill(d), i.Sending.Now())
	if err != nil {
		return err
	}
	t := translator{ctx, i.Translation, by, m.ID}
	err = drillCopies(t, func() error {
		_, err := i.Store.SaveDraft(ctx, m.ID, m.Revision, by.ID, d, i.Sending.Now())
		return err
	})
	if err != nil {
		return err
	}
	return withoutHold(ctx, i, func() ([]int64, error) { return drillReadings(ctx, i, by, m.ID) })
}

// drillFiles are the list of what to bring, in English and in Polish.
func drillFiles(ctx context.Context, i *app.Instance, account int64) (files []attachment.File, err error) {
	for _, f := range []struct{ name, language, content string }{
		{"What to bring.txt", "en", "For the capsize drill\n\n- a towel\n- a full change of clothes\n- a bag for wet kit\n- £2 for the locker\n"},
		{"Co zabrać.txt", "pl", "Na ćwiczenie wywrotki\n\n- ręcznik\n- pełna zmiana ubrania\n- torba na mokre rzeczy\n- 2 funty na szafkę\n"},
	} {
		file, err := i.Store.AddFile(ctx, account, f.name, "text/plain", []byte(f.content), i.Sending.Now())
		if err != nil {
			return nil, err
		}
		file.Language = f.language
		files = append(files, file)
	}
	return files, nil
}

// drillReadings asks for two readings of the draft: of one that is going on, with a line
// that its reader says otherwise, and of one that waits. It returns the requests.
func drillReadings(ctx context.Context, i *app.Instance, by access.Principal, id int64) (requests []int64, err error) {
	until := i.Sending.Now().AddDate(0, 0, 6)
	var paths []string
	for _, tag := range []string{"ar", "vi"} {
		people, _, _, err := i.Reading.Known(ctx, by, id, tag)
		if err != nil || len(people) == 0 {
			return requests, err // a roster of another size
		}
		asked, err := i.Reading.Ask(ctx, by, id, tag, []reading.Reader{{Person: people[0].ID}}, until, i.Site())
		if err != nil {
			return requests, err
		}
		requests, paths = append(requests, asked[0].Request), append(paths, asked[0].Path)
	}
	token := path.Base(paths[0])
	v, err := i.Reading.Visit(ctx, token)
	if err != nil {
		return requests, err
	}
	var says []reading.Say
	for _, l := range v.Lines[:4] {
		if len(l.Doubts) == 0 { // that one they have not come to
			text := strings.Replace(l.Target.Text, "عزيزي", "مرحبًا", 1)
			says = append(says, reading.Say{Key: l.Key(), Seen: l.Target.Text, Text: text})
		}
	}
	_, _, err = i.Reading.Hear(ctx, token, says, "", false)
	return requests, err
}
