package intake

import (
	"strings"

	"upperlantern/internal/core/roster"
)

// roleWords are the words that files use for roles.
var roleWords = fold(map[roster.Role]string{
	roster.Guardian: "guardian, parent, carer, mother, father, erziehungsberechtigte, erziehungsberechtigter, eltern, mutter, vater, " +
		"parent d'élève, responsable, tutor, tutora, madre, padre, responsável, encarregado, mãe, pai, opiekun, rodzic, genitore, " +
		"ouder, rodič, опікун, мати, батько, родитель, phụ huynh, waalid, ولي الأمر, 家长, 监护人, 保護者",
	roster.Staff: "staff, coach, teacher, office, employee, lehrer, lehrerin, lehrkraft, trainer, trainerin, mitarbeiter, mitarbeiterin, " +
		"enseignant, enseignante, professeur, personnel, entraîneur, profesor, profesora, docente, personal, entrenador, professor, " +
		"professora, funcionário, treinador, nauczyciel, nauczycielka, trener, pracownik, insegnante, allenatore, leraar, medewerker, " +
		"učitel, trenér, учитель, вчитель, тренер, працівник, giáo viên, macallin, معلم, موظف, 教师, 老师, 员工, 教員, 職員",
	roster.Member: "member, mitglied, membre, adhérent, adhérente, socio, socia, miembro, membro, sócio, sócia, członek, członkini, " +
		"lid, člen, член, thành viên, xubin, عضو, 成员, 会员, 会員",
	roster.Field: "field, warden, volunteer, driver, freiwillige, freiwilliger, ehrenamtliche, ehrenamtlicher, helfer, helferin, bénévole, " +
		"voluntario, voluntaria, voluntário, voluntária, wolontariusz, wolontariuszka, volontario, vrijwilliger, dobrovolník, " +
		"волонтер, доброволець, tình nguyện viên, mutadawac, متطوع, 志愿者, ボランティア",
	roster.Dependent: "dependent, child, junior, pupil, student, ward, schüler, schülerin, kind, élève, enfant, alumno, alumna, niño, " +
		"niña, aluno, aluna, criança, uczeń, uczennica, dziecko, alunno, alunna, leerling, žák, dítě, учень, учениця, дитина, " +
		"ученик, học sinh, ardayga, arday, طالب, 学生, 生徒",
})

// statusWords are the words that files use for a status.
var statusWords = fold(map[roster.Status]string{
	roster.Active: "active, current, enrolled, registered, on roll, present, aktiv, angemeldet, actif, active, inscrit, inscrite, activo, " +
		"activa, matriculado, matriculada, inscrito, ativo, ativa, aktywny, aktywna, attivo, attiva, actief, ingeschreven, aktivní, " +
		"активний, активна, активный, đang học, firfircoon, نشط, 在读, 在校, 在职, 有效, 在籍",
	roster.Away: "away, on leave, absent, beurlaubt, abwesend, en congé, ausente, de baja, afastado, afastada, urlopowany, " +
		"urlop, assente, afwezig, nepřítomný, відсутній, у відпустці, tạm nghỉ, maqan, غائب, 休学, 请假, 休会",
	roster.Left: "left, former, leaver, inactive, withdrawn, graduated, transferred, resigned, deceased, ended, off roll, ausgetreten, " +
		"abgemeldet, ehemalig, ehemalige, ehemaliger, inaktiv, verzogen, parti, partie, ancien, ancienne, radié, radiée, sorti, " +
		"inactif, egresado, inactivo, retirado, antiguo, transferido, inativo, desligado, saiu, egresso, wypisany, skreślony, " +
		"nieaktywny, odszedł, były, uscito, ritirato, inattivo, ex, uitgeschreven, vertrokken, inactief, neaktivní, odešel, " +
		"вибув, вибула, неактивний, відрахований, выбыл, неактивен, đã nghỉ, thôi học, ka baxay, منسحب, غير نشط, متخرج, " +
		"退学, 离校, 离职, 毕业, 退会, 転出, 卒業",
})

// yesWords and noWords answer a question that a column asks.
var (
	yesWords = set("yes, y, true, 1, x, ✓, ja, j, oui, o, sí, si, s, sim, tak, t, ano, a, так, да, có, haa, نعم, 是, はい")
	noWords  = set("no, n, false, 0, -, nein, non, não, nie, ne, nee, ні, нет, không, maya, لا, 否, いいえ")
)

func fold[T ~string](words map[T]string) map[string]T {
	folded := map[string]T{}
	for to, list := range words {
		for word := range set(list) {
			folded[word] = to
		}
	}
	return folded
}

func set(list string) map[string]bool {
	words := map[string]bool{}
	for word := range strings.SplitSeq(list, ", ") {
		words[word] = true
	}
	return words
}
