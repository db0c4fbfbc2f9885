package intake

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"upperlantern/internal/core/roster"
)

// headings are what files call their columns, without case, digits and punctuation:
// in English, German, French, Spanish, Portuguese, Italian, Dutch, Polish, Czech,
// Ukrainian, Russian, Vietnamese, Somali, Arabic, Chinese and Japanese.
var headings = map[Column][]string{
	ExternalID: {
		"id", "external id", "person id", "member no", "member number", "membership number", "number", "ref", "reference",
		"student id", "student number", "pupil id", "pupil number", "upn", "admission number", "staff id", "employee id",
		"employee number", "personnel number", "nummer", "schülernummer", "mitgliedsnummer", "personalnummer", "numéro",
		"matricule", "numéro d adhérent", "número", "matrícula", "número de alumno", "numer", "nr", "numer ucznia",
		"legitymacja", "matricola", "leerlingnummer", "lidnummer", "číslo", "номер", "табельний номер", "табельный номер",
		"mã số", "mã học sinh", "lambarka", "رقم", "رقم الطالب", "رقم العضوية", "编号", "学号", "工号", "番号", "学籍番号",
	},
	GivenName: {
		"given name", "given names", "first name", "first names", "first", "forename", "forenames", "student first name",
		"pupil forename", "legal first name", "vorname", "vornamen", "rufname", "prénom", "prénoms", "nombre", "nombres",
		"nome próprio", "primeiro nome", "imię", "imiona", "voornaam", "roepnaam", "jméno", "křestní jméno", "ім я", "имя",
		"tên", "magaca hore", "الاسم الأول", "名", "名字",
	},
	FamilyName: {
		"family name", "last name", "last names", "last", "surname", "student last name", "pupil surname",
		"legal last name", "nachname", "familienname", "zuname", "nom de famille", "apellido", "apellidos", "sobrenome",
		"apelido", "apelidos", "nazwisko", "cognome", "achternaam", "příjmení", "прізвище", "фамилия", "họ",
		"magaca qoyska", "اسم العائلة", "اللقب", "姓", "姓氏",
	},
	FullName: {
		"name", "full name", "person", "student", "student name", "pupil", "pupil name", "child", "child name",
		"child s name", "learner", "member", "member name", "employee", "employee name", "staff name", "volunteer",
		"players", "player", "player name", "schüler", "schülerin", "kind", "mitglied", "vollständiger name",
		"name vorname", "nom", "nom complet", "nom et prénom", "élève", "adhérent", "nombre completo", "nombre y apellidos",
		"apellidos y nombre", "alumno", "alumna", "socio", "nome", "nome completo", "aluno", "aluna", "imię i nazwisko",
		"nazwisko i imię", "uczeń", "uczennica", "cognome e nome", "nome e cognome", "alunno", "leerling", "naam",
		"volledige naam", "jméno a příjmení", "žák", "піб", "прізвище та ім я", "учень", "фио", "ученик", "họ và tên",
		"họ tên", "học sinh", "magaca", "magaca oo dhan", "ardayga", "الاسم", "الاسم الكامل", "الطالب", "姓名", "学生姓名",
		"学生", "氏名", "名前", "生徒氏名",
	},
	Roles: {
		"role", "roles", "type", "category", "person type", "rolle", "funktion", "rôle", "fonction", "rol", "función",
		"papel", "função", "rola", "funkcja", "ruolo", "роль", "vai trò", "doorka", "الدور", "角色", "身份", "役割",
	},
	Language: {
		"language", "preferred language", "home language", "first language", "language at home", "lang", "sprache",
		"muttersprache", "familiensprache", "langue", "langue maternelle", "idioma", "lengua", "língua", "idioma preferido",
		"język", "język ojczysty", "lingua", "taal", "thuistaal", "jazyk", "мова", "язык", "ngôn ngữ", "luqadda", "اللغة",
		"语言", "言語",
	},
	Mobile: {
		"mobile", "mobile phone", "mobile number", "cell", "cell phone", "cellphone", "text number", "sms", "phone",
		"phone number", "telephone", "telephone number", "tel", "contact number", "handy", "handynummer", "mobil",
		"mobiltelefon", "mobilnummer", "telefon", "telefonnummer", "portable", "téléphone", "téléphone portable", "gsm",
		"móvil", "celular", "teléfono", "teléfono móvil", "telemóvel", "telefone", "telefone celular", "komórka",
		"telefon komórkowy", "numer telefonu", "nr telefonu", "cellulare", "telefono", "mobiel", "telefoonnummer", "telefoon",
		"телефон", "мобільний", "мобильный", "мобільний телефон", "номер телефону", "номер телефона", "số điện thoại",
		"điện thoại", "di động", "telefoonka", "taleefanka", "الهاتف", "الجوال", "رقم الهاتف", "رقم الجوال", "手机",
		"手机号", "手机号码", "电话", "联系电话", "携帯", "携帯電話", "電話", "電話番号",
	},
	Landline: {
		"landline", "home phone", "home telephone", "home", "house phone", "work phone", "work telephone", "festnetz",
		"telefon privat", "telefon dienstlich", "téléphone fixe", "fixe", "teléfono fijo", "fijo", "telefone fixo", "fixo",
		"telefon stacjonarny", "telefono fisso", "vaste telefoon", "домашній телефон", "домашний телефон", "座机", "固定電話",
	},
	Email: {
		"email", "e mail", "mail", "email address", "e mail address", "home email", "work email", "mailadresse",
		"e mail adresse", "courriel", "adresse e mail", "adresse mail", "mél", "correo", "correo electrónico", "e mail pessoal",
		"endereço de e mail", "adres e mail", "poczta", "posta elettronica", "e mailadres", "електронна пошта", "пошта",
		"электронная почта", "почта", "email gia đình", "thư điện tử", "iimaylka", "البريد الإلكتروني", "بريد إلكتروني",
		"邮箱", "电子邮件", "电子邮箱", "メール", "メールアドレス",
	},
	Groups: {
		"group", "groups", "squad", "squads", "team", "teams", "class", "classes", "section", "form", "year group",
		"registration group", "reg group", "homeroom", "grade", "klasse", "klassen", "gruppe", "gruppen", "mannschaft",
		"classe", "groupe", "équipe", "clase", "grupo", "curso", "equipo", "turma", "equipe", "klasa", "grupa", "drużyna",
		"gruppo", "squadra", "klas", "groep", "třída", "skupina", "клас", "група", "класс", "группа", "lớp", "nhóm",
		"fasalka", "kooxda", "الصف", "المجموعة", "班级", "小组", "クラス", "組",
	},
	Guardians: {"guardian", "guardians", "parent", "parents", "parent or guardian", "guardian id", "guardian ids", "parent id", "parent ids"},
	Barred:    {"barred guardian", "barred guardians", "barred contact", "contact barred"},
	OptedOut:  {"opted out of", "opted out", "opt out", "declines", "declined"},
	Status: {
		"status", "state", "enrolment status", "enrollment status", "membership status", "zustand", "statut", "estado",
		"situação", "stato", "стан", "статус", "trạng thái", "xaaladda", "الحالة", "状态", "状態",
	},
	KnownAs: {"known as", "preferred name", "preferred first name", "nickname", "called", "chosen name", "spitzname", "surnom"},
	Unit: {
		"unit", "school", "campus", "station", "org", "organisation", "organization", "schule", "standort", "école", "site",
		"escuela", "colegio", "sede", "escola", "unidade", "szkoła", "jednostka", "scuola", "locatie", "школа", "підрозділ",
		"trường", "dugsiga", "المدرسة", "学校", "校区",
	},
	TextOnly:   {"texts only", "text only"},
	Dependents: {"dependents", "children", "dependent ids"},
	AwayUntil:  {"away until", "back on"},
	BornOn: {
		"born on", "born", "birth date", "birthday", "birthdate", "date of birth", "dob", "d o b", "geburtsdatum", "geboren",
		"geboren am", "geburtstag", "date de naissance", "né le", "fecha de nacimiento", "nacimiento", "data de nascimento",
		"nascimento", "data urodzenia", "urodzony", "data di nascita", "geboortedatum", "datum narození", "дата народження",
		"дата рождения", "ngày sinh", "taariikhda dhalashada", "تاريخ الميلاد", "出生日期", "生日", "生年月日",
	},
	TimeZone: {"time zone", "timezone", "tz"},
	Wish:     {"wish", "preferred channel", "wishes"},
	Notes: {
		"notes", "note", "remarks", "remark", "comments", "bemerkung", "bemerkungen", "notiz", "remarque", "remarques",
		"observaciones", "notas", "observações", "uwagi", "opmerkingen", "poznámka", "примітки", "примечания", "ghi chú",
		"ملاحظات", "备注", "備考",
	},
}

// Columns of a guardian of the row's person.
const (
	relation  Column = "relation"
	livesWith Column = "lives with"
	receives  Column = "receives"
	noContact Column = "no contact"
)

// guardianHeadings are what files call the columns that only guardians have.
var guardianHeadings = map[Column][]string{
	relation: {
		"relation", "relationship", "relationship to student", "relation to child", "verwandtschaft", "beziehung",
		"lien", "lien de parenté", "parentesco", "relación", "relação", "pokrewieństwo", "relazione", "relatie", "спорідненість", "关系",
	},
	livesWith: {"lives with", "resides with", "lives at", "same address", "wohnt bei", "vit avec", "vive con", "mora com"},
	receives: {
		"receives", "receives messages", "receives mail", "receives mailings", "mailings", "mailing", "correspondence",
		"receives correspondence", "contact allowed", "erhält post", "recibe", "recebe",
	},
	noContact: {
		"no contact", "do not contact", "barred", "contact barred", "no access", "court order", "kontaktverbot",
		"kein kontakt", "sin contacto", "sem contato",
	},
}

// guardianFields are what a column of a guardian can mean, in the order in which they
// are offered.
var guardianFields = []Column{
	FullName, GivenName, FamilyName, relation, Mobile, Landline, Email, Language, livesWith, receives, noContact,
}

// mostGuardians is how many guardians a row can name in columns of their own.
const mostGuardians = 4

// guardianColumn is the meaning of a column that holds something of a row's guardian.
func guardianColumn(n int, field Column) Column {
	return Column("guardian " + strconv.Itoa(n) + ": " + string(field))
}

// guardianOf takes the meaning of such a column apart.
func guardianOf(c Column) (n int, field Column, ok bool) {
	text, found := strings.CutPrefix(string(c), "guardian ")
	number, field2, colon := strings.Cut(text, ": ")
	n, err := strconv.Atoi(number)
	return n, Column(field2), found && colon && err == nil
}

// relations are the words for guardians, and whom they mean: mothers and fathers are
// one each.
var relations = map[string]string{
	"guardian": "", "parent": "", "carer": "", "emergency contact": "", "next of kin": "", "parent guardian": "",
	"parent carer": "", "mother": "mother", "mum": "mother", "mom": "mother", "father": "father", "dad": "father",
	"erziehungsberechtigter": "", "erziehungsberechtigte": "", "erziehungsberechtigte r": "", "sorgeberechtigter": "",
	"sorgeberechtigte": "", "elternteil": "", "eltern": "", "mutter": "mother", "vater": "father",
	"responsable": "", "responsable légal": "", "tuteur": "", "mère": "mother", "père": "father",
	"tutor": "", "tutora": "", "madre": "mother", "padre": "father", "responsável": "", "encarregado": "",
	"encarregado de educação": "", "mãe": "mother", "pai": "father", "opiekun": "", "opiekuna": "", "rodzic": "",
	"rodzica": "", "matka": "mother", "matki": "mother", "ojciec": "father", "ojca": "father", "genitore": "", "ouder": "",
	"verzorger": "", "moeder": "mother", "vader": "father", "rodič": "", "otec": "father",
	"опікун": "", "мати": "mother", "мама": "mother", "батько": "father", "тато": "father", "родитель": "",
	"мать": "mother", "отец": "father", "phụ huynh": "", "mẹ": "mother", "bố": "father", "cha": "father",
	"waalid": "", "hooyo": "mother", "aabo": "father", "ولي الأمر": "", "الأم": "mother", "الأب": "father",
	"家长": "", "监护人": "", "母亲": "mother", "父亲": "father", "保護者": "", "母": "mother", "父": "father",
}

// longestRelation is how many words the longest of them has.
const longestRelation = 3

var ordinals = map[string]int{
	"first": 1, "primary": 1, "main": 1, "second": 2, "secondary": 2, "other": 2, "third": 3, "fourth": 4,
}

// ofGuardian is what a heading says of a guardian: who is meant, the number if it has
// one, and what of them it is.
type ofGuardian struct {
	who    string
	number int
	field  Column
}

var wordOrNumber = regexp.MustCompile(`[\p{L}\p{M}]+|\d+`)

// guardianHeading reads a heading such as “Guardian 2 mobile” or “Mother’s email”.
func guardianHeading(heading string) (g ofGuardian, ok bool) {
	words := wordOrNumber.FindAllString(strings.ToLower(norm.NFKC.String(heading)), -1)
	words = slices.DeleteFunc(words, func(w string) bool { return w == "s" || w == "of" })
	var rest []string
	for i := 0; i < len(words); i++ {
		if n := relationAt(words[i:], &g, &ok); n > 0 {
			i += n - 1
			continue
		}
		if n, err := strconv.Atoi(words[i]); err == nil && g.number == 0 {
			g.number = n
			continue
		}
		if n := ordinals[words[i]]; n > 0 && g.number == 0 {
			g.number = n
			continue
		}
		if words[i] == "contact" && i == 0 && numbered(words) { // “Contact 2 email”
			ok = true
			continue
		}
		rest = append(rest, words[i])
	}
	if !ok {
		return g, false
	}
	field := strings.Join(rest, " ")
	if field == "" {
		g.field = FullName
		return g, g.number > 0 || g.who != ""
	}
	for _, c := range guardianFields {
		if slices.Contains(guardianHeadings[c], field) || guardianHeadings[c] == nil && slices.Contains(headings[c], field) {
			g.field = c
			return g, true
		}
	}
	return g, false
}

func numbered(words []string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Trim(w, "1234") == "" })
}

// relationAt reports how many of the first words are one for a guardian.
func relationAt(words []string, g *ofGuardian, found *bool) int {
	for n := min(longestRelation, len(words)); n > 0; n-- {
		if who, known := relations[strings.Join(words[:n], " ")]; known {
			if who != "" || !*found {
				g.who = who
			}
			*found = true
			return n
		}
	}
	return 0
}

// Guess reads the meaning of each column from its heading; headings that are
// called like an attribute hold it. Where a second column would have a meaning
// that only one may have, it is ignored. A column without a heading means what its
// cells hold, if that are mailboxes or numbers only.
func Guess(header []string, rows []Row, attributes []roster.Attribute) []Column {
	mapping := make([]Column, len(header))
	people := guardiansIn(header, attributes)
	for i, heading := range header {
		c := meaning(heading, attributes)
		if g, ok := guardianHeading(heading); ok && people[g.key()] > 0 && (c == Ignored || c == Guardians && g.number > 0) {
			c = guardianColumn(people[g.key()], g.field)
		}
		if c == Ignored && foldHeading(heading) == "" {
			c = byContent(i, rows)
		}
		if !mayRepeat(c) && slices.Contains(mapping[:i], c) {
			continue
		}
		mapping[i] = c
	}
	// Beside a given name, “Name” is what is left of it.
	if full := slices.Index(mapping, FullName); full >= 0 && slices.Contains(mapping, GivenName) &&
		!slices.Contains(mapping, FamilyName) {
		mapping[full] = FamilyName
	}
	return mapping
}

func (g ofGuardian) key() ofGuardian { return ofGuardian{who: g.who, number: g.number} }

// guardiansIn numbers the guardians that headings name: by their own numbers where
// they are free, else as they appear.
func guardiansIn(header []string, attributes []roster.Attribute) map[ofGuardian]int {
	var keys []ofGuardian
	for _, heading := range header {
		c := meaning(heading, attributes)
		g, ok := guardianHeading(heading)
		if c != Ignored && (c != Guardians || g.number == 0) {
			continue
		}
		if ok && !slices.Contains(keys, g.key()) {
			keys = append(keys, g.key())
		}
	}
	numbers, taken := map[ofGuardian]int{}, map[int]bool{}
	for _, k := range keys {
		if k.number >= 1 && k.number <= mostGuardians && !taken[k.number] {
			numbers[k], taken[k.number] = k.number, true
		}
	}
	for _, k := range keys {
		for n := 1; n <= mostGuardians && numbers[k] == 0; n++ {
			if !taken[n] {
				numbers[k], taken[n] = n, true
			}
		}
	}
	return numbers
}

func mayRepeat(c Column) bool {
	if _, field, ok := guardianOf(c); ok {
		c = field
	}
	return slices.Contains(several, c)
}

// sampled is how many rows are looked at to see what a column holds, and sampleAtLeast
// how many cells say enough.
const (
	sampled       = 200
	sampleAtLeast = 3
)

// byContent is what a column holds, by its cells.
func byContent(column int, rows []Row) Column {
	filled, mailboxes, numbers := 0, 0, 0
	for _, row := range rows[:min(sampled, len(rows))] {
		if column >= len(row.Cells) || strings.TrimSpace(row.Cells[column]) == "" {
			continue
		}
		filled++
		cell := strings.TrimSpace(row.Cells[column])
		switch {
		case mailboxLike.MatchString(cell):
			mailboxes++
		case numberLike.MatchString(cell):
			numbers++
		}
	}
	switch {
	case filled < sampleAtLeast:
		return Ignored
	case mailboxes == filled:
		return Email
	case numbers == filled:
		return Mobile
	}
	return Ignored
}

var (
	mailboxLike = regexp.MustCompile(`^[^\s@]+@[^\s@]+\.[^\s@]+$`)
	numberLike  = regexp.MustCompile(`^(\+|00?)[\d \-/().]{8,}$`)
)

func meaning(heading string, attributes []roster.Attribute) Column {
	folded := foldHeading(heading)
	for _, a := range attributes {
		if foldHeading(a.Name) == folded {
			return AttributeColumn(a.Name)
		}
	}
	if c := columnByHeading[folded]; c != Ignored {
		return c
	}
	if c := Column(strings.ToLower(strings.TrimSpace(heading))); c != Ignored {
		if n, field, ok := guardianOf(c); ok && n <= mostGuardians && slices.Contains(guardianFields, field) {
			return c
		}
	}
	return Ignored
}

// columnByHeading finds a meaning by a folded heading.
var columnByHeading = func() map[string]Column {
	all := map[string]Column{}
	for _, c := range Columns {
		all[string(c)] = c
		for _, name := range headings[c] {
			all[foldHeading(name)] = c
		}
	}
	return all
}()

// foldHeading leaves the letters of a heading, in lower case.
func foldHeading(heading string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(norm.NFKC.String(heading)), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsMark(r)
	}), " ")
}

// headingsWithin is among how many rows the headings are looked for.
const headingsWithin = 30

// FindHeadings is which of the rows of a file hold its headings: from the first to the
// last of them, which are the same but for a head in two rows.
func FindHeadings(rows [][]string) (first, last int) {
	rows = rows[:min(headingsWithin, len(rows))]
	start := slices.IndexFunc(rows, func(row []string) bool { return countFilled(row) > 1 || known(row) > 0 })
	if start < 0 {
		return 0, 0
	}
	best, most := start, known(rows[start])
	for i := start + 1; i < len(rows); i++ {
		if n := known(rows[i]); n > most && n > 1 {
			best, most = i, n
		}
	}
	if below := best + 1; below < len(rows) && twoRows(rows[best], rows[below]) {
		return best, below
	}
	if best > 0 && twoRows(rows[best-1], rows[best]) {
		return best - 1, best
	}
	return best, best
}

// known counts the cells of a row that mean something as headings; a row with values
// has none.
func known(row []string) int {
	n := 0
	for _, cell := range row {
		if valueLike(cell) {
			return 0
		}
		if meaning(cell, nil) != Ignored {
			n++
		} else if _, ok := guardianHeading(cell); ok {
			n++
		}
	}
	return n
}

var longNumber = regexp.MustCompile(`\d[\d /.\-]{3,}\d`)

// valueLike reports whether a cell is no heading: it has a number of some length, or
// is a mailbox.
func valueLike(cell string) bool {
	return longNumber.MatchString(cell) || mailboxLike.MatchString(strings.TrimSpace(cell))
}

// twoRows reports whether two rows are one head: the upper has gaps over which its
// cells reach, and says with the lower what neither says alone.
func twoRows(upper, lower []string) bool {
	up, down := countFilled(upper), countFilled(lower)
	if up == 1 && overGuardian(upper) {
		up = 2
	}
	if up < 2 || down < 2 || known(lower) == 0 || slices.ContainsFunc(upper, valueLike) {
		return false
	}
	gap := false
	for i := 1; i < len(upper) && i < len(lower); i++ {
		gap = gap || strings.TrimSpace(upper[i]) == "" && strings.TrimSpace(lower[i]) != "" && strings.TrimSpace(upper[i-1]) != ""
	}
	return gap && known(JoinHeadings(upper, lower)) >= max(known(upper), known(lower))
}

// overGuardian reports whether a row has nothing but a word for a guardian, over some
// columns behind the first.
func overGuardian(row []string) bool {
	at := slices.IndexFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" })
	if at < 1 {
		return false
	}
	_, ok := guardianHeading(row[at])
	return ok
}

// JoinHeadings makes one row of headings of a head in two rows.
func JoinHeadings(upper, lower []string) []string {
	joined := make([]string, max(len(upper), len(lower)))
	over := ""
	for i := range joined {
		below := ""
		if i < len(lower) {
			below = strings.TrimSpace(lower[i])
		}
		if i < len(upper) && strings.TrimSpace(upper[i]) != "" {
			over = strings.TrimSpace(upper[i])
		}
		joined[i] = strings.TrimSpace(over + " " + below)
		if below == "" && (i >= len(upper) || strings.TrimSpace(upper[i]) == "") {
			joined[i] = ""
		}
		// “Pupil” over “First name” says no more than “First name” does.
		if meaning(joined[i], nil) == Ignored && meaning(below, nil) != Ignored {
			if _, guardian := guardianHeading(joined[i]); !guardian {
				joined[i] = below
			}
		}
	}
	return joined
}

func countFilled(row []string) int {
	n := 0
	for _, cell := range row {
		if strings.TrimSpace(cell) != "" {
			n++
		}
	}
	return n
}
