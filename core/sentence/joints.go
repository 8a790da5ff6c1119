package sentence

import (
	"strings"
	"sync"
)

// joints are the words of a language that need something beside them. An empty value leaves
// them standing.
type joints struct {
	prepositions string // end neither a clause nor a sentence when what follows was left out
	particles    string // prepositions that end a sentence as part of a verb, too
	determiners  string // articles and words that say whose
	conjunctions string
	verbs        string // say nothing without what follows them
	subjects     string // pronouns that begin a clause
	titles       string // stand before a name
	ranges       string // pairs that stand around the beginning and before the end of a range
}

// jointsOf are the joints of each language (common practice, no source: from memory, the
// closed classes of words of each grammar and the verbs that letters of sales use).
var jointsOf = map[string]joints{
	"en": {
		prepositions: "at for from of to with within without between among into onto until till since during near per via by after before about against towards toward upon under below above behind beside besides beyond across along around through throughout despite except including like than regarding concerning as on in over",
		particles:    "on in over by about around through along across before after since up off out",
		determiners:  "a an the my your his her its our their this these those each every some any which whose another mr's",
		conjunctions: "and or but nor because if whether that although while unless so",
		verbs:        "is are was were be being been am has have had costs cost means equals becomes became called named includes included contains needs amounts reads totals weighs measures holds starts ends offers",
		subjects:     "i we he they she who where when what",
		titles:       "mr mrs ms miss dr prof mr. mrs. ms. dr. prof. no. nr.",
		ranges:       "from/to between/and from/until",
	},
	"de": {
		prepositions: "in im ins am ans bei beim von vom zu zum zur mit für aus nach seit über unter vor hinter neben zwischen durch gegen ohne um bis ab an auf per pro wegen trotz während laut gegenüber innerhalb außerhalb als wie statt",
		particles:    "an auf aus ab ein mit vor zu nach bei um über unter durch hinter gegenüber wie",
		determiners:  "der die das den dem des ein eine einen einem einer eines mein meine meinen meinem meiner ihr ihre ihren ihrem ihrer ihres unser unsere unseren unserem unserer sein seine seinen seinem seiner euer eure euren dieser diese dieses diesen diesem jeder jede jedes welche welcher kein keine",
		conjunctions: "und oder aber sondern weil dass ob wenn falls obwohl denn sowie",
		verbs:        "ist sind war waren wird werden wurde wurden hat haben hatte kostet kosten beträgt betragen heißt heißen lautet lauten bedeutet umfasst enthält misst wiegt braucht beginnt endet namens genannt",
		subjects:     "ich wir er es man wer wo",
		titles:       "herr herrn frau dr dr. prof prof. nr nr.",
		ranges:       "von/bis zwischen/und vom/bis von/zu vom/zum",
	},
	"fr": {
		prepositions: "à au aux de du des en dans par pour sur sous avec sans chez vers entre depuis pendant dès jusqu'à contre devant derrière après avant selon malgré parmi près comme d' l' qu' n' s' c' m' t'",
		particles:    "après avant devant derrière contre depuis",
		determiners:  "le la les un une mon ma mes votre vos son sa ses notre nos leur leurs ce cet cette ces chaque quel quelle quels quelles",
		conjunctions: "et ou mais car que si parce quand lorsque puisque donc ni",
		verbs:        "est sont était étaient sera seront a ont avait coûte coûtent vaut valent s'appelle s'élève comprend contient nommé nommée mesure pèse signifie devient",
		subjects:     "je nous il elle ils elles on qui où",
		titles:       "m. mr mme mlle dr dr. no n°",
		ranges:       "de/à du/au entre/et",
	},
	"es": {
		prepositions: "a al de del en por para con sin sobre bajo ante tras entre desde hasta hacia contra según durante mediante como",
		particles:    "",
		determiners:  "el la los las un una unos unas mi mis su sus nuestro nuestra nuestros nuestras este esta estos estas ese esa cada cuyo cuya",
		conjunctions: "y e o u pero porque que si aunque cuando ni sino",
		verbs:        "es son era eran será serán está están estaba tiene tienen cuesta cuestan vale valen llama llaman llamado llamada incluye contiene mide pesa significa asciende",
		subjects:     "yo nosotros él ella ellos quien donde",
		titles:       "sr sr. sra sra. srta srta. dr dr. dra dra. nº",
		ranges:       "de/a del/al entre/y desde/hasta",
	},
	"it": {
		prepositions: "a al allo alla ai agli alle da dal dallo dalla dai dagli dalle di del dello della dei degli delle in nel nello nella nei negli nelle con su sul sullo sulla sui sugli sulle per tra fra verso presso senza contro durante dopo prima come circa d' l' all' dall' dell' nell' sull' un'",
		particles:    "dopo prima contro",
		determiners:  "il lo la i gli le un uno una mio mia miei mie suo sua suoi sue nostro nostra nostri nostre loro questo questa questi queste ogni quale",
		conjunctions: "e ed o oppure ma perché che se anche quando né",
		verbs:        "è sono era erano sarà saranno ha hanno costa costano vale chiama chiamano chiamato chiamata comprende contiene misura pesa significa ammonta",
		subjects:     "io noi lei lui chi dove",
		titles:       "sig sig. sig.ra sig.na signor dott dott. dott.ssa dr dr. ing.",
		ranges:       "da/a dal/al tra/e fra/e",
	},
	"pt": {
		prepositions: "a ao aos à às de do da dos das em no na nos nas por pelo pela pelos pelas para com sem sobre sob entre desde até contra segundo durante após perante como num numa",
		particles:    "",
		determiners:  "o os as um uma meu minha meus minhas seu sua seus suas nosso nossa nossos nossas este esta estes estas esse essa cada cujo cuja",
		conjunctions: "e ou mas porque que se embora quando nem",
		verbs:        "é são era eram será serão está estão tem têm custa custam vale chama chamam chamado chamada inclui contém mede pesa significa fica",
		subjects:     "eu nós ele ela eles quem onde",
		titles:       "sr sr. sra sra. dr dr. dra dra. eng. nº",
		ranges:       "de/a entre/e desde/até das/às",
	},
	"nl": {
		prepositions: "aan bij binnen boven buiten door in met na naar naast om onder op over per rond sinds te tegen ten ter tijdens tot tussen uit van vanaf via volgens voor vóór zonder als dan",
		particles:    "aan bij binnen door in mee na om onder op over rond tegen toe uit voor boven buiten",
		determiners:  "de het een mijn uw jouw je zijn haar ons onze hun deze dit dat elke ieder iedere welke geen",
		conjunctions: "en of maar want omdat dat als hoewel wanneer noch",
		verbs:        "is was waren wordt worden werd heeft hebben had kost kosten heet heten bedraagt bedragen betekent bevat meet weegt genaamd begint eindigt",
		subjects:     "ik wij we hij zij wie waar",
		titles:       "dhr dhr. mevr mevr. dr dr. ing. nr nr.",
		ranges:       "van/tot tussen/en van/naar",
	},
	"sv": {
		prepositions: "i på av till från för med om vid hos efter före under över mellan bakom framför genom utan mot sedan inom utanför nära per via enligt trots kring bland som än åt",
		particles:    "på av till från med om efter under över mot åt i",
		determiners:  "en ett den det de min mitt mina din ditt dina er ert era vår vårt våra sin sitt sina hans hennes deras denna detta dessa varje vilken",
		conjunctions: "och eller men eftersom att om fast när samt",
		verbs:        "är var blir blev har hade kostar heter betyder innehåller omfattar mäter väger börjar slutar kallad",
		subjects:     "jag vi han hon de vem där",
		titles:       "herr fru dr dr. nr nr.",
		ranges:       "från/till mellan/och",
	},
	"da": {
		prepositions: "i på af til fra for med om ved hos efter før under over mellem bag foran gennem uden mod siden inden udenfor nær per via ifølge trods blandt som end ad",
		particles:    "på af til fra med om efter under over mod ad i ved",
		determiners:  "en et den det de min mit mine din dit dine jeres vores sin sit sine hans hendes deres denne dette disse hver hvilken",
		conjunctions: "og eller men fordi at hvis når samt",
		verbs:        "er var bliver blev har havde koster hedder betyder indeholder omfatter måler vejer begynder slutter kaldet",
		subjects:     "jeg vi han hun hvem hvor",
		titles:       "hr hr. fru dr dr. nr nr.",
		ranges:       "fra/til mellem/og",
	},
	"nb": {
		prepositions: "i på av til fra for med om ved hos etter før under over mellom bak foran gjennom uten mot siden innen utenfor nær per via ifølge tross blant som enn ad",
		particles:    "på av til fra med om etter under over mot i ved",
		determiners:  "en et ei den det de min mitt mine din ditt dine deres vår vårt våre sin sitt sine hans hennes denne dette disse hver hvilken",
		conjunctions: "og eller men fordi at hvis når samt",
		verbs:        "er var blir ble har hadde koster heter betyr inneholder omfatter måler veier begynner slutter kalt",
		subjects:     "jeg vi han hun hvem hvor",
		titles:       "hr hr. fru dr dr. nr nr.",
		ranges:       "fra/til mellom/og",
	},
	"pl": {
		prepositions: "w we z ze do na od dla przy po o u za przez pod nad między przed bez ku obok około podczas według wobec jako niż",
		particles:    "",
		determiners:  "mój moja moje twój twoja nasz nasza nasze wasz wasza ten ta każdy każda który która",
		conjunctions: "i oraz lub albo ale bo że czy jeśli ponieważ gdy ani",
		verbs:        "jest są był była było będzie będą ma mają kosztuje kosztują wynosi wynoszą nazywa oznacza zawiera",
		subjects:     "ja my on ona oni kto gdzie",
		titles:       "pan pani pana panem panią dr dr. nr nr.",
		ranges:       "od/do między/a",
	},
	"cs": {
		prepositions: "v ve z ze do na od pro při po o u za přes pod nad mezi před bez k ke kolem během podle vůči jako než s se",
		particles:    "se",
		determiners:  "můj moje váš vaše vaši náš naše ten ta to tento tato každý každá který která",
		conjunctions: "a i nebo ale protože že zda jestli když ani",
		verbs:        "je jsou byl byla bylo bude budou má mají stojí činí jmenuje znamená obsahuje",
		subjects:     "já my on ona oni kdo kde",
		titles:       "pan paní pana panem dr dr. č.",
		ranges:       "od/do mezi/a",
	},
}

// class is what a word needs beside it; a word may be of several.
type class uint8

const (
	preposition class = 1 << iota
	particle
	determiner
	conjunction
	verb
	subject
	title
)

// grammar is the joints of a language, by word.
type grammar struct {
	classes map[string]class
	ranges  map[string][]string // what begins a range, by what stands before its end
	serial  bool                // a comma may stand before the last item of a list
}

var grammars = sync.OnceValue(func() map[string]*grammar {
	out := map[string]*grammar{}
	for lang, j := range jointsOf {
		g := &grammar{classes: map[string]class{}, ranges: map[string][]string{}, serial: lang == "en"}
		for c, list := range map[class]string{
			preposition: j.prepositions, particle: j.particles, determiner: j.determiners, conjunction: j.conjunctions, verb: j.verbs, subject: j.subjects, title: j.titles,
		} {
			for w := range strings.FieldsSeq(list) {
				g.classes[w] |= c
			}
		}
		for pair := range strings.FieldsSeq(j.ranges) {
			from, to, _ := strings.Cut(pair, "/")
			g.ranges[to] = append(g.ranges[to], from)
		}
		out[lang] = g
	}
	return out
})
