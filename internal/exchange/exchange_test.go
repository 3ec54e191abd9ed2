package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
)

func yard(t testing.TB) *project.Project {
	t.Helper()
	p, _, err := project.New("Larchmoor").Edit([]project.Op{
		{Kind: "device", ID: "d1", Value: json.RawMessage(`{"name":"KilnPLC","protocol":"modbus-tcp","host":"127.0.0.1","port":502,"unit":1,"order":"ABCD","numbering":0,"poll":250,"timeout":1000,"maxGap":16,"maxBlock":125}`)},
		{Kind: "log", ID: "l1", Value: json.RawMessage(`{"name":"Climate","picks":[{"tag":"t1"}],"how":{"way":"changes"},"while":{},"keep":{"days":30},"spans":{}}`)},
		{Kind: "book", ID: "b1", Value: json.RawMessage(`{"name":"Schedule","fields":[{"id":"f1","name":"Step[1].Dry","type":"REAL"}],"sending":{}}`)},
		{Kind: "tag", ID: "t1", Value: json.RawMessage(`{"name":"DryBulb","type":"INT","source":"device","device":"d1","address":"input:0","unit":"°C"}`)},
	})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func lines(t *testing.T, text string) []Line {
	t.Helper()
	rows, err := ReadCSV([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return Preview(rows, yard(t), Options{})
}

func TestPreview(t *testing.T) {
	got := lines(t, "\xEF\xBB\xBFPath;Type;Device;Address;Unit;Decimals\r\n"+
		"DryBulb;INT;KilnPLC;300001;°C;\r\n"+ // the same, written as a trade reference
		"Kiln1.WetBulb;INT;kilnplc;input:1;°C;1\r\n"+
		"Kiln1.wetbulb;INT;KilnPLC;input:2;;\r\n"+
		"Kiln-1.X;INT;KilnPLC;input:3;;\r\n"+
		"A;FLOAT;KilnPLC;input:3;;\r\n"+
		"B;INT;Other;input:3;;\r\n"+
		"C;REAL;KilnPLC;coil:3;;\r\n"+
		"D;INT;KilnPLC;input:4;;1.5\r\n"+
		"\r\n"+
		"E;BOOL;;;;\r\n")
	want := []string{
		"2 same", "3 new", "4 clashing path: this path stands in line 3 already",
		`5 refused path: '-' is not allowed: use letters, digits, _ and [n]`,
		`6 refused type: type "FLOAT" is not known: use one of BOOL, SINT, USINT, INT, UINT, DINT, UDINT, LINT, ULINT, REAL, LREAL, STRING(n)`,
		"7 refused device: there is no device Other: add it first", "8 refused address: coil:3 holds single bits: only a BOOL fits, not REAL",
		"9 refused decimals: 1.5 is not a whole number", "11 new",
	}
	for i, l := range got {
		s := fmt.Sprintf("%d %s", l.Line, l.Status)
		if l.Status == Refused || l.Status == Clashing {
			s += " " + l.Column + ": " + l.Reason.String()
		}
		if i >= len(want) || s != want[i] {
			t.Errorf("got  %s", s)
		}
	}
	if len(got) != len(want) {
		t.Errorf("%d lines, want %d", len(got), len(want))
	}
}

func TestChangedFieldByField(t *testing.T) {
	l := lines(t, "path,type,unit,limit_high\nDryBulb,INT,K,95\n")[0]
	if l.Status != Changed || fmt.Sprint(l.Differences) != "[{unit °C K} {limit_high  95}]" {
		t.Errorf("%+v", l)
	}
}

func TestWholeFilesAreRefused(t *testing.T) {
	for text, says := range map[string]string{
		"":                       "empty",
		"path,colour\n":          "type is missing",
		"path,path,type\n":       "twice",
		"type\n":                 "path is missing",
		"path,type\n\"A,INT\n":   "quote",
		"path,type\nA,INT\x00\n": "not text",
		"path,type\nA\xff,INT\n": "not UTF-8",
	} {
		if _, err := ReadCSV([]byte(text)); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v; want %q", text, err, says)
		}
	}
}

func imported(t testing.TB, text string) *project.Project {
	t.Helper()
	p := yard(t)
	rows, err := ReadCSV([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	ops := Ops(Preview(rows, p, Options{}), p, nil, func(kind string) string { n++; return fmt.Sprintf("%s%d", kind[:1], n+100) })
	q, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	return q
}

func TestWhatIsExportedImportsAgainWithNoChange(t *testing.T) {
	p := imported(t, "path,type,source,device,address,access,poll,raw_low,raw_high,eng_low,eng_high,decimals,limit_low,limit_high,step,formula,description,retain,initial,states,gain,offset,invert,write_address\n"+
		"Kiln1.SP,INT,device,KilnPLC,holding:0,readwrite,500,0,1200,0,120,1,20,95,0.5,,\"a, \"\"b\"\"\",,,,,,,\n"+
		"Kiln1.Fan[1].Running,BOOL,device,KilnPLC,discrete:20,readwrite,,,,,,,,,,,,,,\"0=off, 1=on|de=an\",,,true,coil:4\n"+
		"Kiln1.Top,INT,internal,,,,,,,,,,,Kiln1.SP,,,,true,7,,,,,\n"+
		"Kiln1.Raw,INT,device,KilnPLC,input:9,,,,,,,,,,,,,,,,0.1,-40,,\n"+
		"Kiln1.Hour,INT,system,,clock.hour,,,,,,,,,,,,,,,,,,,\n"+
		"Kiln1.LogState,INT,system,Climate,log.state,,,,,,,,,,,,,,,,,,,\n"+
		"Kiln1.Open,REAL,system,Schedule,recipe.field Step[1].Dry,,,,,,,,,,,,,,,,,,,\n"+
		"Kiln1.Gap,LREAL,computed,,,,,,,,,2,,,,Kiln1.SP - DryBulb,,,,,,,,\n")
	var ids []string
	for _, e := range p.Entities() {
		if e.Kind == "tag" {
			ids = append(ids, e.ID)
		}
	}
	var buf bytes.Buffer
	if err := WriteCSV(&buf, p, ids); err != nil {
		t.Fatal(err)
	}
	rows, err := ReadCSV(buf.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range Preview(rows, p, Options{}) {
		if l.Status != Same {
			t.Errorf("%s is %s: %s %v", l.Path, l.Status, l.Reason, l.Differences)
		}
	}
	if id, ok := p.FindPath("Kiln1.Open"); !ok || p.Tags[id].Book != "b1" || p.Tags[id].Field != "f1" {
		t.Errorf("%+v", p.Tags[id])
	}
	if len(rows) != 9 {
		t.Errorf("%d rows", len(rows))
	}
}

func FuzzCSV(f *testing.F) {
	f.Add("path,type\nA,INT\n")
	f.Add("path;type;decimals\nA;REAL;1\n")
	f.Add("path,type,raw_low\n\"")
	f.Fuzz(func(t *testing.T, s string) {
		rows, err := ReadCSV([]byte(s))
		if err != nil {
			return
		}
		p := yard(t)
		n := 0
		ops := Ops(Preview(rows, p, Options{}), p, nil, func(kind string) string { n++; return fmt.Sprintf("x%d", n) })
		if _, _, err := p.Edit(ops); err != nil {
			t.Errorf("%q was previewed as good but is refused: %v", s, err)
		}
	})
}

func TestArchive(t *testing.T) {
	p := imported(t, "path,type\nKiln1.A,INT\n")
	a, hash, err := WriteArchive(Content{Things: p.Entities()})
	if err != nil {
		t.Fatal(err)
	}
	b, hash2, _ := WriteArchive(Content{Things: p.Entities()})
	if !bytes.Equal(a, b) || hash != hash2 || len(hash) != 64 {
		t.Error("the same project must give the same bytes")
	}
	content, err := ReadArchive(a)
	if err != nil {
		t.Fatal(err)
	}
	q, err := project.Load(content.Things)
	if err != nil {
		t.Fatal(err)
	}
	if c, _, _ := WriteArchive(Content{Things: q.Entities()}); !bytes.Equal(a, c) {
		t.Error("reading and writing changed the archive")
	}
	// With recipes it is another one, and gives them back as they were.
	with := Content{Things: p.Entities(), Recipes: []Recipe{{ID: "rp1", Book: "b1", Name: "Larch 50", Versions: []RecipeVersion{
		{Values: recipe.Values{"f1": "62.5"}, State: "approved", Person: "p1", Name: "Tom", At: 5, JudgedBy: "Iris", JudgedAt: 6},
		{Values: recipe.Values{"f1": "65"}, State: "draft", Person: "p1", Name: "Tom", At: 7, Why: "checks in the core"},
	}}}}
	d, hash3, err := WriteArchive(with)
	if err != nil || hash3 == hash {
		t.Fatalf("the archive with recipes: %v, hash the same: %v", err, hash3 == hash)
	}
	if content, err = ReadArchive(d); err != nil || !reflect.DeepEqual(content.Recipes, with.Recipes) {
		t.Errorf("recipes came back as %+v (%v)", content.Recipes, err)
	}
}

func zipped(files ...string) []byte {
	var buf bytes.Buffer
	z := zip.NewWriter(&buf)
	for i := 0; i+1 < len(files); i += 2 {
		f, _ := z.Create(files[i])
		f.Write([]byte(files[i+1]))
	}
	z.Close()
	return buf.Bytes()
}

func TestHostileArchives(t *testing.T) {
	head := `{"format":"ready-rail-project","schema":1}`
	bomb := strings.Repeat("0", 1<<20)
	many := []string{"project.json", head}
	for i := range 520 {
		many = append(many, fmt.Sprintf("tag/t%d.json", i), bomb)
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"no zip":   {[]byte("hello"), "no zip"},
		"empty":    {zipped(), "no project.json"},
		"other":    {zipped("project.json", "{}"), "says something else"},
		"newer":    {zipped("project.json", `{"format":"ready-rail-project","schema":9}`), "newer"},
		"way out":  {zipped("project.json", head, "../../etc/x.json", "{}"), "leads out"},
		"absolute": {zipped("project.json", head, "/etc/x.json", "{}"), "leads out"},
		"bomb":     {zipped(many...), "unpacks to more"},
		"recipe":   {zipped("project.json", head, "plant/recipes/r1.json", `{"bok":"b1"}`), "plant/recipes/r1.json"},
	} {
		if _, err := ReadArchive(c.data); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
	}
}
