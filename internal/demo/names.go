package demo

// people of a language: how often it is spoken here, and names.
type tongue struct {
	tag    string
	weight int
	given  []string
	family []string
}

// tongues are the languages of Quillmere. All names are put together at random.
var tongues = []tongue{
	{"en", 62,
		[]string{
			"Naya", "Piers", "Lena", "Tobin", "Orla", "Fergus", "Mabel", "Idris", "Greta", "Rowan", "Esme", "Jonas", "Hattie",
			"Callum", "Wren", "Silas", "Nell", "Bram", "Ottilie", "Dara", "Edmund", "Freya", "Gwen", "Hugo", "Imogen", "Jasper",
			"Kit", "Lowri", "Milo", "Nora", "Oscar", "Petra", "Quentin", "Rhona", "Seth", "Tamsin", "Ursula", "Vaughn", "Willa",
			"Zeb",
		},
		[]string{"Osei", "Achterberg", "Bellweather", "Crake", "Dunmarsh", "Eldfen", "Farrowby", "Goldthorn", "Hazelrigg", "Inchmoor", "Jessamy", "Kettlewick", "Larkham", "Marlowe-Finch", "Netherby", "Oakshade", "Penhallow", "Quillan", "Rushmere", "Sallowfield", "Thackeray", "Underhill", "Venn", "Wetherell", "Yarrow", "Ashgrove", "Brindle", "Coldbrook", "Drayhurst", "Everdene", "Fenwick", "Garside"}},
	{"pl", 10,
		[]string{
			"Piotr", "Agnieszka", "Łukasz", "Zofia", "Michał", "Małgorzata", "Jakub", "Kinga", "Bożena", "Wojciech", "Oliwia",
			"Szymon",
		},
		[]string{"Zielony", "Brzozowska", "Kłos", "Wiśniowski", "Jarzębina", "Stręk", "Górna", "Młynarz"}},
	{"ar", 5,
		[]string{"Yusuf", "Hala", "Nadia", "Tariq", "Omar", "Rania", "Sami", "Lina"},
		[]string{"Haddad", "Al-Nahri", "Qasimi", "Salman"}},
	{"ar", 3,
		[]string{"رانيا", "سامي", "لينا", "كريم", "مريم", "ياسين"},
		[]string{"حداد", "سلمان", "النجار", "الخطيب"}},
	{"vi", 5,
		[]string{"Tuấn", "Hương", "Thảo", "Đức", "Linh", "Phúc", "Ngọc", "Minh"},
		[]string{"Võ", "Nguyễn", "Trần", "Đặng"}},
	{"pt-PT", 3, []string{"Inês", "Duarte", "Beatriz", "Gonçalo", "Leonor", "Tomás", "Matilde"}, []string{"Ribeira", "Falcão", "Amoreira", "Salgueiro", "Moinho"}},
	{"pt-BR", 3, []string{"Caio", "Luana", "Thiago", "Jussara", "Iara", "Davi"}, []string{"Conceição", "Jardim", "Araguaia", "Pequi", "Sertão"}},
	{"uk", 4, []string{"Олена", "Тарас", "Марія", "Андрій", "Соломія", "Богдан", "Ярина"}, []string{"Верба", "Калина", "Річковий", "Явір", "Мельник"}},
	{"es", 3, []string{"Begoña", "Íñigo", "Ximena", "Raúl", "Nerea", "Lázaro"}, []string{"Peñalba", "Ríos", "Cañada", "Molinero", "Vado"}},
	{"zh-Hans", 3, []string{"Xiaoyu", "Wei", "Jing", "Zihan", "Yichen", "Rui"}, []string{"Lin", "Zhou", "Shen", "He"}},
	{"so", 2, []string{"Hodan", "Abdi", "Sagal", "Warsame", "Ayaan", "Liban"}, []string{"Xirsi", "Cabdille", "Webi"}},
}

var (
	squads    = []string{"U12", "U13", "U14", "U16", "U18"}
	crews     = []string{"Morning fours", "Masters eights", "Learn to row", "Sunday scullers"}
	stretches = []string{
		"Millrace to Harrow Lock", "Harrow Lock to Fen Row", "Fen Row to the weir", "Osier island", "Town quays",
	}
	vehicles = []string{
		"Launch Kestrel", "Launch Plover", "Launch Dabchick", "Rescue boat Otter", "Rescue boat Vole", "Van 1", "Van 2",
		"Van 3", "Pump trailer", "Sandbag lorry", "Minibus", "Coach launch Teal",
	}
	boathouse = []string{"Head coach", "Coach", "Coach", "Coach", "Office", "Safeguarding", "Boat repair"}
	swimTest  = []string{"passed", "passed", "passed", "due", ""}
)
