package project

import "strings"

// Wording is a rule's sentence and its mend; {name} stands for an argument.
type Wording struct {
	Says string
	Mend string
}

// wordings renders findings, by language and rule.
var wordings = map[string]map[string]Wording{
	"en": {
		"site.areas":           {"The plant has no areas.", "Add areas where rights differ by part of the plant."},
		"device.unused":        {"No tag uses this device.", "Bring in its tags, or delete it."},
		"device.same":          {"{endpoint} unit {unit} is {other} already.", "Give each device its own unit id or endpoint."},
		"device.tag":           {"A tag of its heartbeat or clock no longer exists.", "Choose another tag."},
		"device.tag.write":     {"Its heartbeat or clock writes {tag}, which is no writable tag of this device.", "Choose a writable tag of this device."},
		"device.tag.other":     {"Its heartbeat watches {tag}, which another source gives.", "Choose a tag of this device."},
		"tag.own":              {"It needs {tag}, which each viewer has for itself.", "Use {tag} on screens only."},
		"tag.limit":            {"The tag that gives its limit no longer exists.", "Choose another tag, or a constant."},
		"tag.limit.type":       {"Its limit is {tag}, which is {type} and no number.", "Choose a tag with a number."},
		"tag.follow":           {"On a stand-in it follows a tag that no longer exists.", "Choose another tag or behaviour."},
		"tag.behaviour":        {"What it does on a stand-in: {reason}.", "Correct the behaviour's formula."},
		"tag.device":           {"Its device no longer exists.", "Choose a device."},
		"tag.address":          {"{reason}.", "Correct the address or the type."},
		"tag.formula.type":     {"The formula gives {gives}, the tag is {type}.", "Change the tag's type or the formula."},
		"tag.overlap":          {"{address} as {type} overlaps {other}, which is {otherType}.", "Correct one of the two addresses or types."},
		"tag.bits":             {"{address} and {other} are a register and its bits apart.", "Writing one may undo the other: read the bits out of the word with bit(), or leave the word out."},
		"tag.twice":            {"{address} is {other} already.", "Use one tag for both, unless two names are meant."},
		"tag.cycle":            {"The tag depends on itself: {members}.", "Break the ring at one of its formulas."},
		"formula":              {"Column {column}: {reason}.", "Correct the formula."},
		"formula.gone":         {"Column {column}: {reason}.", "Name another tag."},
		"screen.home":          {"{count} screens open first; it must be one.", "Mark one screen as the first."},
		"screen.tag":           {"Its tag no longer exists.", "Choose a tag."},
		"screen.target":        {"The screen it opens does not exist.", "Choose a screen."},
		"screen.binding.type":  {"{property} takes {wants}.", "Change the formula."},
		"screen.untagged":      {"It has no tag.", "Drop a tag on it, or choose one."},
		"screen.readonly":      {"{tag} can only be read.", "Choose a tag that can be written, or use a readout."},
		"screen.value":         {"{reason}, so {tag} cannot take the value.", "Correct the value that the button sets."},
		"screen.device":        {"The device whose diagnostics it opens does not exist.", "Choose a device."},
		"screen.answer":        {"It waits for an answer, and no tag gives one.", "Choose the tag that answers."},
		"screen.bool":          {"{tag} is {type}; toggle and hold need a BOOL.", "Choose a BOOL, or another action."},
		"screen.outside":       {"It lies outside the screen.", "Move it in, or delete it."},
		"screen.watchdog":      {"{tag} is held by a lease that ends by itself here.", "Let the controller have a watchdog of its own: no screen is a safety function."},
		"screen.ring":          {"This screen contains itself.", "Take it out of what it contains."},
		"screen.unreachable":   {"Nothing leads to this screen.", "Let a button open it, or show it in the navigation."},
		"screen.param":         {"The type of the parameter {param} no longer exists.", "Choose a type."},
		"screen.role":          {"A role that may open it no longer exists.", "Choose the roles anew."},
		"screen.type":          {"The type of what it repeats is not chosen or no longer exists.", "Choose a type."},
		"screen.picture":       {"The picture no longer exists.", "Choose a picture."},
		"screen.empty":         {"It shows nothing yet.", "Choose what it shows."},
		"screen.arg":           {"The parameter {param} of {screen} is not given.", "Choose what it stands for."},
		"screen.arg.type":      {"What is given for {param} of {screen} is not a {type}.", "Choose equipment of that type."},
		"screen.look":          {"The state looks no longer exist.", "Choose others."},
		"screen.look.of":       {"Its looks follow nothing yet.", "Say by what the look is chosen."},
		"screen.key":           {"{key} already presses {other} on this screen.", "Choose another key."},
		"screen.number":        {"{tag} is {type}; this needs a number.", "Choose a number."},
		"equipment.type":       {"{reason}.", "Choose another type or delete the equipment."},
		"equipment.ring":       {"{reason}.", "Break the ring at a type."},
		"equipment.setting":    {"{reason}.", "Give the setting a number."},
		"equipment.member":     {"{reason}.", "Correct it at the type."},
		"equipment.difference": {"{reason}.", "Take back what this instance has for itself."},
		"equipment.many":       {"{reason}.", "Make the arrays smaller."},
		"equipment.device":     {"Its device no longer exists.", "Choose a device."},
		"type.ring":            {"The type contains itself.", "Take it out of what it contains."},
		"type.screen":          {"Its symbol or faceplate no longer exists.", "Choose another."},
		"type.member":          {"The type of this member no longer exists.", "Choose a type."},
		"people.operate":       {"No role may operate.", "Give a role the right to enter values."},
	},
	"de": {
		"site.areas":           {"Die Anlage hat keine Bereiche.", "Bereiche anlegen, wo Rechte je Anlagenteil verschieden sind."},
		"device.unused":        {"Keine Variable benutzt dieses Gerät.", "Seine Variablen einlesen oder das Gerät löschen."},
		"device.same":          {"{endpoint} Unit {unit} ist schon {other}.", "Jedem Gerät eine eigene Unit-ID oder Adresse geben."},
		"device.tag":           {"Eine Variable für Lebenszeichen oder Uhr gibt es nicht mehr.", "Eine andere Variable wählen."},
		"device.tag.write":     {"Lebenszeichen oder Uhr schreiben {tag}, keine schreibbare Variable dieses Geräts.", "Eine schreibbare Variable dieses Geräts wählen."},
		"device.tag.other":     {"Das Lebenszeichen beobachtet {tag}, das aus anderer Quelle kommt.", "Eine Variable dieses Geräts wählen."},
		"tag.own":              {"Sie braucht {tag}; das hat jeder Betrachter für sich.", "{tag} nur auf Bildern verwenden."},
		"tag.limit":            {"Die Variable, die ihre Grenze gibt, gibt es nicht mehr.", "Eine andere Variable oder eine feste Grenze wählen."},
		"tag.limit.type":       {"Ihre Grenze ist {tag}; das ist {type} und keine Zahl.", "Eine Variable mit einer Zahl wählen."},
		"tag.follow":           {"Auf dem Ersatzgerät folgt sie einer Variable, die es nicht mehr gibt.", "Eine andere Variable oder ein anderes Verhalten wählen."},
		"tag.behaviour":        {"Ihr Verhalten auf dem Ersatzgerät: {reason}.", "Die Formel des Verhaltens berichtigen."},
		"tag.device":           {"Ihr Gerät gibt es nicht mehr.", "Ein Gerät wählen."},
		"tag.address":          {"{reason}.", "Adresse oder Typ berichtigen."},
		"tag.formula.type":     {"Die Formel ergibt {gives}, die Variable ist {type}.", "Typ oder Formel ändern."},
		"tag.overlap":          {"{address} als {type} überschneidet {other} ({otherType}).", "Eine der beiden Adressen oder Typen berichtigen."},
		"tag.bits":             {"{address} und {other} sind ein Register und seine Bits getrennt.", "Ein Schreiben kann das andere aufheben: Bits mit bit() aus dem Wort lesen oder das Wort weglassen."},
		"tag.twice":            {"{address} ist schon {other}.", "Eine Variable für beides, wenn nicht zwei Namen gemeint sind."},
		"tag.cycle":            {"Die Variable hängt von sich selbst ab: {members}.", "Den Ring an einer Formel auftrennen."},
		"formula":              {"Spalte {column}: {reason}.", "Die Formel berichtigen."},
		"formula.gone":         {"Spalte {column}: {reason}.", "Eine andere Variable nennen."},
		"screen.home":          {"{count} Bilder öffnen zuerst; es muss eines sein.", "Ein Bild als erstes kennzeichnen."},
		"screen.tag":           {"Die Variable gibt es nicht mehr.", "Eine Variable wählen."},
		"screen.target":        {"Das Bild, das es öffnet, gibt es nicht.", "Ein Bild wählen."},
		"screen.binding.type":  {"{property} nimmt {wants}.", "Die Formel ändern."},
		"screen.untagged":      {"Es hat keine Variable.", "Eine Variable darauf ziehen oder wählen."},
		"screen.readonly":      {"{tag} kann nur gelesen werden.", "Eine schreibbare Variable wählen oder eine Anzeige nehmen."},
		"screen.value":         {"{reason}; {tag} kann den Wert nicht nehmen.", "Den Wert der Taste berichtigen."},
		"screen.device":        {"Das Gerät, dessen Diagnose es öffnet, gibt es nicht.", "Ein Gerät wählen."},
		"screen.answer":        {"Es wartet auf eine Antwort, und keine Variable gibt sie.", "Die Variable wählen, die antwortet."},
		"screen.bool":          {"{tag} ist {type}; Umschalten und Halten brauchen BOOL.", "Ein BOOL wählen oder eine andere Wirkung."},
		"screen.outside":       {"Es liegt außerhalb des Bildes.", "Hereinholen oder löschen."},
		"screen.watchdog":      {"{tag} wird hier von einer Frist gehalten, die von selbst endet.", "Die Steuerung soll selbst überwachen: kein Bild ist eine Sicherheitsfunktion."},
		"screen.ring":          {"Dieses Bild enthält sich selbst.", "Aus dem herausnehmen, was es enthält."},
		"screen.unreachable":   {"Nichts führt zu diesem Bild.", "Von einer Taste öffnen lassen oder in der Navigation zeigen."},
		"screen.param":         {"Den Typ des Parameters {param} gibt es nicht mehr.", "Einen Typ wählen."},
		"screen.role":          {"Eine Rolle, die es öffnen darf, gibt es nicht mehr.", "Die Rollen neu wählen."},
		"screen.type":          {"Der Typ dessen, was wiederholt wird, fehlt.", "Einen Typ wählen."},
		"screen.picture":       {"Die Grafik gibt es nicht mehr.", "Eine Grafik wählen."},
		"screen.empty":         {"Es zeigt noch nichts.", "Wählen, was es zeigt."},
		"screen.arg":           {"Für den Parameter {param} von {screen} ist nichts angegeben.", "Wählen, wofür er steht."},
		"screen.arg.type":      {"Was für {param} von {screen} angegeben ist, ist kein {type}.", "Eine Anlage dieses Typs wählen."},
		"screen.look":          {"Die Zustandsbilder gibt es nicht mehr.", "Andere wählen."},
		"screen.look.of":       {"Die Zustandsbilder folgen noch nichts.", "Angeben, wonach das Bild gewählt wird."},
		"screen.key":           {"{key} drückt auf diesem Bild schon {other}.", "Eine andere Taste wählen."},
		"screen.number":        {"{tag} ist {type}; hier wird eine Zahl gebraucht.", "Eine Zahl wählen."},
		"equipment.type":       {"{reason}.", "Einen anderen Typ wählen oder die Anlage löschen."},
		"equipment.ring":       {"{reason}.", "Den Ring an einem Typ auftrennen."},
		"equipment.setting":    {"{reason}.", "Der Einstellung eine Zahl geben."},
		"equipment.member":     {"{reason}.", "Am Typ berichtigen."},
		"equipment.difference": {"{reason}.", "Das Eigene dieser Anlage zurücknehmen."},
		"equipment.many":       {"{reason}.", "Die Felder kleiner machen."},
		"equipment.device":     {"Ihr Gerät gibt es nicht mehr.", "Ein Gerät wählen."},
		"type.ring":            {"Der Typ enthält sich selbst.", "Aus dem herausnehmen, was er enthält."},
		"type.screen":          {"Sein Symbol oder seine Bedientafel gibt es nicht mehr.", "Ein anderes wählen."},
		"type.member":          {"Den Typ dieses Teils gibt es nicht mehr.", "Einen Typ wählen."},
		"people.operate":       {"Keine Rolle darf bedienen.", "Einer Rolle das Recht geben, Werte einzugeben."},
	},
}

// Render puts a finding into words; an unknown language gives English.
func (f Finding) Render(language string) Wording {
	list, ok := wordings[language]
	if !ok {
		list = wordings["en"]
	}
	w := list[f.Rule]
	for k, v := range f.Args {
		w.Says = strings.ReplaceAll(w.Says, "{"+k+"}", v)
		w.Mend = strings.ReplaceAll(w.Mend, "{"+k+"}", v)
	}
	return w
}
