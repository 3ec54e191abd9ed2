package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"readyrail/internal/core/project"
)

// show writes rows as "path type address |was| problem".
func show(rows []Row) string {
	var out []string
	for _, r := range rows {
		s := r.Fields["path"] + " " + r.Fields["type"]
		for _, c := range []string{"address", "initial", "states", "access"} {
			if v := r.Fields[c]; v != "" {
				s += " " + c + "=" + v
			}
		}
		if r.Was != "" {
			s += " |" + r.Was + "|"
		}
		if r.Problem != nil {
			s += " !" + r.Problem.Why.Error()
		}
		out = append(out, s)
	}
	return strings.Join(out, "\n")
}

const plc = `<?xml version="1.0" encoding="utf-8"?>
<ppx:project xmlns:ppx="http://www.plcopen.org/xml/tc6_0200">
 <ppx:types><ppx:dataTypes>
  <ppx:dataType name="FanType"><ppx:baseType><ppx:struct>
   <ppx:variable name="Running"><ppx:type><ppx:BOOL/></ppx:type></ppx:variable>
   <ppx:variable name="Speed"><ppx:type><ppx:INT/></ppx:type><ppx:documentation><p>percent <b>of</b> full</p></ppx:documentation></ppx:variable>
  </ppx:struct></ppx:baseType></ppx:dataType>
  <ppx:dataType name="ModeType"><ppx:baseType><ppx:enum><ppx:values><ppx:value name="idle"/><ppx:value name="drying" value="2"/></ppx:values></ppx:enum></ppx:baseType></ppx:dataType>
 </ppx:dataTypes></ppx:types>
 <ppx:instances><ppx:configurations><ppx:configuration name="C"><ppx:resource name="R">
  <ppx:globalVars name="Kiln1">
   <ppx:variable name="DryBulb" address="%IW0"><ppx:type><ppx:INT/></ppx:type><ppx:documentation>inlet side</ppx:documentation></ppx:variable>
   <ppx:variable name="Moisture" address="%ID10"><ppx:type><ppx:array><ppx:dimension lower="1" upper="2"/><ppx:baseType><ppx:REAL/></ppx:baseType></ppx:array></ppx:type></ppx:variable>
   <ppx:variable name="Alarm" address="%QX1.6"><ppx:type><ppx:array><ppx:dimension lower="0" upper="2"/><ppx:baseType><ppx:BOOL/></ppx:baseType></ppx:array></ppx:type></ppx:variable>
   <ppx:variable name="Fan"><ppx:type><ppx:derived name="FanType"/></ppx:type></ppx:variable>
   <ppx:variable name="Mode" address="%MW4"><ppx:type><ppx:derived name="ModeType"/></ppx:type></ppx:variable>
   <ppx:variable name="2nd"><ppx:type><ppx:UINT/></ppx:type><ppx:initialValue><ppx:simpleValue value="16#1F"/></ppx:initialValue></ppx:variable>
   <ppx:variable name="Load"><ppx:type><ppx:string length="16"/></ppx:type><ppx:initialValue><ppx:simpleValue value="'L-2611'"/></ppx:initialValue></ppx:variable>
   <ppx:variable name="Odd"><ppx:type><ppx:derived name="Nowhere"/></ppx:type></ppx:variable>
   <ppx:addData><ppx:data name="x"><variable name="NotMine"/></ppx:data></ppx:addData>
  </ppx:globalVars>
 </ppx:resource></ppx:configuration></ppx:configurations></ppx:instances>
</ppx:project>`

func TestPLCopen(t *testing.T) {
	want := `Kiln1.DryBulb INT address=%IW0
Kiln1.Moisture[1] REAL address=%ID10
Kiln1.Moisture[2] REAL address=%ID11
Kiln1.Alarm[0] BOOL address=%QX1.6
Kiln1.Alarm[1] BOOL address=%QX1.7
Kiln1.Alarm[2] BOOL address=%QX2.0
Kiln1.Fan.Running BOOL
Kiln1.Fan.Speed INT
Kiln1.Mode INT address=%MW4 states=0=idle, 2=drying
Kiln1.N2nd UINT initial=31 |Kiln1.2nd|
Kiln1.Load STRING(16) initial=L-2611
Kiln1.Odd  !the derived type Nowhere is not in the document`
	for name, doc := range map[string]string{"prefixed": plc,
		"plain": strings.ReplaceAll(strings.ReplaceAll(plc, "ppx:", ""), "xmlns:ppx", "xmlns")} {
		rows, err := ReadPLCopen([]byte(doc))
		if err != nil {
			t.Fatal(name, err)
		}
		if got := show(rows); got != want {
			t.Errorf("%s:\n%s\nwant\n%s", name, got, want)
		}
		if rows[0].Fields["description"] != "inlet side" || rows[7].Fields["description"] != "percent of full" {
			t.Errorf("documentation: %q, %q", rows[0].Fields["description"], rows[7].Fields["description"])
		}
	}
	rows, _ := ReadPLCopen([]byte(plc))
	var got []string
	for _, l := range Preview(rows, yard(t), Options{}) {
		got = append(got, l.Path+" "+string(l.Status)+" "+l.Address)
	}
	if s := strings.Join(got[:5], "; "); s != "Kiln1.DryBulb new input:0; Kiln1.Moisture[1] new input:20; Kiln1.Moisture[2] new input:22; Kiln1.Alarm[0] new coil:14; Kiln1.Alarm[1] new coil:15" {
		t.Error(s)
	}
}

const nodes = `<?xml version="1.0"?><UANodeSet xmlns="http://opcfoundation.org/UA/2011/03/UANodeSet.xsd">
<Aliases><Alias Alias="Double">i=11</Alias><Alias Alias="HasComponent">i=47</Alias><Alias Alias="HasSubtype">i=45</Alias></Aliases>
<UAObject NodeId="ns=1;s=Meter" BrowseName="1:Meter"><References><Reference ReferenceType="Organizes" IsForward="false">i=85</Reference></References></UAObject>
<UAVariable NodeId="ns=1;s=Meter.Power" BrowseName="1:Power" DataType="Double" AccessLevel="3"><Description>of the whole yard</Description><References><Reference ReferenceType="HasComponent" IsForward="false">ns=1;s=Meter</Reference></References></UAVariable>
<UAVariable NodeId="ns=1;i=7" BrowseName="1:Phase L1" DataType="Watt" ParentNodeId="ns=1;s=Meter"/>
<UAVariable NodeId="ns=1;s=Bays" BrowseName="1:Bays" DataType="i=1" ValueRank="1" ArrayDimensions="2"/>
<UAVariable NodeId="ns=1;s=Odd" BrowseName="1:Odd" DataType="i=22"/>
<UADataType NodeId="Watt" BrowseName="1:Watt"><References><Reference ReferenceType="HasSubtype" IsForward="false">i=10</Reference></References></UADataType>
</UANodeSet>`

func TestNodeSet(t *testing.T) {
	rows, err := ReadNodeSet([]byte(nodes))
	if err != nil {
		t.Fatal(err)
	}
	want := `Meter.Power LREAL address=ns=1;s=Meter.Power access=readwrite
Meter.Phase_L1 REAL address=ns=1;i=7 access=read |Meter.Phase L1|
Bays[0] BOOL address=ns=1;s=Bays|[0] access=read
Bays[1] BOOL address=ns=1;s=Bays|[1] access=read
Odd i=22 address=ns=1;s=Odd access=read !data type i=22 is not one that a tag can have`
	if got := show(rows); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
}

func TestHostileLists(t *testing.T) {
	long := strings.Repeat("<a>", 100)
	for name, c := range map[string]struct{ doc, says string }{
		"entities":  {`<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><project>&b;</project>`, "not accepted"},
		"unclosed":  {`<project><types>`, "ends too early"},
		"crossed":   {`<project><a></b></project>`, "closes nothing"},
		"deep":      {"<project>" + long, "nested deeper"},
		"other":     {`<html></html>`, "PLCopen XML has project"},
		"no vars":   {`<project><types/></project>`, "no global variables"},
		"recursive": {`<project><dataType name="A"><baseType><struct><variable name="B"><type><derived name="A"/></type></variable></struct></baseType></dataType><globalVars><variable name="V"><type><derived name="A"/></type></variable></globalVars></project>`, ""},
		"huge":      {`<project><globalVars><variable name="V"><type><array><dimension lower="0" upper="99999999"/><baseType><INT/></baseType></array></type></variable></globalVars></project>`, "more than 200000"},
		"an entity": {`<project>&lol;</project>`, "well-formed"},
	} {
		rows, _, err := Read([]byte(c.doc), "", nil)
		if c.says == "" {
			if err != nil || len(rows) != 1 || rows[0].Problem == nil {
				t.Errorf("%s: %d rows, %v", name, len(rows), err)
			}
			continue
		}
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"not a workbook": {zipped("hello.txt", "hello"), "not a workbook"},
		"half a zip":     {zipped("xl/workbook.xml", "<workbook/>")[:60], "not a workbook"},
		"bomb":           {zipped("xl/workbook.xml", strings.Repeat(" ", maxWorkbookBytes+1)), "unpacked"},
		"empty":          {nil, "empty"},
	} {
		if _, _, err := Read(c.data, "", nil); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
	}
}

func TestXLSXImportsAgainWithNoChange(t *testing.T) {
	p := imported(t, "path,type,source,device,address,unit,description\nKiln1.A,INT,device,KilnPLC,input:4,°C,=1+1\nKiln1.B,REAL,device,KilnPLC,input:6,,\n")
	var buf bytes.Buffer
	if err := WriteXLSX(&buf, p, p.SortedTags()); err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(bytes.NewReader(buf.Bytes()))
	if err != nil {
		t.Fatal(err)
	}
	if formula, _ := f.GetCellFormula("Tags", "B3"); formula != "" {
		t.Errorf("a text became a formula: %q", formula)
	}
	rows, _, err := Read(buf.Bytes(), "", nil)
	if err != nil || len(rows) != 3 {
		t.Fatal(len(rows), err)
	}
	for _, l := range Preview(rows, p, Options{}) {
		if l.Status != Same {
			t.Errorf("%s is %s %s %v", l.Path, l.Status, l.Reason, l.Differences)
		}
	}
}

func TestOtherLists(t *testing.T) {
	text := "Name\tDatatype\tReg\tR/W\n1st-Fan/Speed\tWORD\t400005\tRW\nand/Temp\tFLOAT\t400007\tR\nX\tBLOB\t400009\tR\n"
	if _, table, err := Read([]byte(text), "", nil); !errors.Is(err, ErrNeedsMatching) || len(table.Cells) != 4 {
		t.Fatal(err)
	}
	m := &Matching{Source: "old", Header: true, Columns: map[string]string{"path": "Name", "type": "Datatype", "address": "Reg",
		"access": "R/W"}, Separators: "/", Folder: "Kiln1"}
	rows, _, err := Read([]byte(text), "", m)
	if err != nil {
		t.Fatal(err)
	}
	want := `Kiln1.N1st_Fan.Speed UINT address=400005 access=readwrite |1st-Fan/Speed|
Kiln1.and_.Temp REAL address=400007 access=read |and/Temp|
Kiln1.X BLOB address=400009 access=read |X| !type "BLOB" is not known: match it with one of ours`
	if got := show(rows); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
	lines := Preview(rows, yard(t), Options{})
	if lines[0].Status != New || lines[0].Address != "holding:4" || lines[0].tag.SourceName != "1st-Fan/Speed" {
		t.Errorf("%+v", lines[0])
	}
	if _, _, err := Read([]byte("A\tB\n1\t2\n"), "", m); err == nil || !strings.Contains(err.Error(), `no column "`) {
		t.Error(err)
	}
	if g := Guess(&Table{Cells: [][]string{{"Symbol", "Data type", "Comment"}}}); g.Columns["path"] != "Symbol" ||
		g.Columns["type"] != "Data type" || g.Columns["description"] != "Comment" {
		t.Errorf("%v", g)
	}
}

// statuses writes lines as "path status".
func statuses(lines []Line) string {
	var out []string
	for _, l := range lines {
		s := l.Path + " " + string(l.Status)
		if l.Renames != "" {
			s += " was " + l.Renames
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}

func TestASecondImportBringsOnlyWhatChanged(t *testing.T) {
	head := "path,type,device,address,unit\n"
	p := imported(t, head+"Kiln1.A,INT,KilnPLC,input:4,°C\nKiln1.B,INT,KilnPLC,input:5,%\nKiln1.C,INT,KilnPLC,input:6,%\nOwn,INT,,,\n")
	rows, _ := ReadCSV([]byte(head + "DryBulb,INT,KilnPLC,input:0,°C\nKiln1.A,INT,KilnPLC,input:4,K\nKiln2.B,INT,KilnPLC,input:5,\nOwn,INT,KilnPLC,input:9,\nDryBulb,INT,KilnPLC,input:0,\n"))
	lines := Preview(rows, p, Options{})
	if got := statuses(lines); got != "DryBulb same; Kiln1.A changed; Kiln2.B changed was Kiln1.B; Own clashing; DryBulb clashing; Kiln1.C gone" {
		t.Fatal(got)
	}
	if d := fmt.Sprint(lines[2].Differences); d != "[{path Kiln1.B Kiln2.B}]" {
		t.Error(d)
	}
	if got := statuses(Preview(rows, p, Options{NoRenames: true})); !strings.Contains(got, "Kiln2.B new") ||
		!strings.Contains(got, "Kiln1.B gone") {
		t.Error(got)
	}
	if got := statuses(Preview(rows, p, Options{Keep: []string{"unit"}})); !strings.Contains(got, "Kiln1.A same") {
		t.Error(got)
	}
	if got := statuses(Preview(rows, p, Options{Leave: []string{"Kiln1"}})); strings.Contains(got, "Kiln1.C") {
		t.Error(got)
	}
	old, _ := p.FindPath("Kiln1.B")
	q, _, err := p.Edit(Ops(lines, p, nil, ids()))
	if err != nil {
		t.Fatal(err)
	}
	if now, _ := q.FindPath("Kiln2.B"); now != old || q.Tags[now].Unit != "%" {
		t.Errorf("the renamed tag is %s, was %s, unit %q", now, old, q.Tags[now].Unit)
	}
	if id, ok := q.FindPath("Kiln1.C"); !ok || q.Tags[id] == nil {
		t.Error("what is gone from the list was deleted unasked")
	}
	q, _, err = p.Edit(Ops(lines, p, func(l *Line) bool { return l.Status == Gone || l.Path == "Own" }, ids()))
	if err != nil {
		t.Fatal(err)
	}
	if _, ok := q.FindPath("Kiln1.C"); ok || q.Tags[mustFind(t, q, "Own")].Address != "input:9" {
		t.Error("what was ticked was not done")
	}
}

func mustFind(t *testing.T, p *project.Project, path string) string {
	t.Helper()
	id, ok := p.FindPath(path)
	if !ok {
		t.Fatalf("there is no %s", path)
	}
	return id
}

func ids() func(string) string {
	n := 0
	return func(kind string) string { n++; return fmt.Sprintf("%s%d", kind[:1], n+5000) }
}

func TestLimitsFromTagsOfTheSameList(t *testing.T) {
	p := yard(t)
	rows, _ := ReadCSV([]byte("path,type,limit_low,limit_high\nSP,REAL,Low,DryBulb\nLow,REAL,,\nBad,REAL,1;2,\n"))
	lines := Preview(rows, p, Options{})
	if statuses(lines) != "SP new; Low new; Bad refused" {
		t.Fatal(statuses(lines))
	}
	q, _, err := p.Edit(Ops(lines, p, nil, ids()))
	if err != nil {
		t.Fatal(err)
	}
	sp := q.Tags[mustFind(t, q, "SP")]
	if sp.LowTag != mustFind(t, q, "Low") || sp.HighTag != "t1" {
		t.Errorf("limits %q, %q", sp.LowTag, sp.HighTag)
	}
}

func FuzzXML(f *testing.F) {
	f.Add([]byte(plc))
	f.Add([]byte(nodes))
	f.Add([]byte("<project>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if rows, _, err := Read(data, "", nil); err == nil {
			p := yard(t)
			if _, _, err := p.Edit(Ops(Preview(rows, p, Options{}), p, nil, ids())); err != nil {
				t.Errorf("previewed as good but refused: %v", err)
			}
		}
	})
}

func big(n int) []byte {
	var b bytes.Buffer
	b.WriteString("path,type,device,address,unit,description\n")
	for i := range n {
		fmt.Fprintf(&b, "Hall%d.Zone[%d].Temperature,INT,KilnPLC,holding:%d,°C,Temperature of the zone\n", i/500, i%500, i)
	}
	return b.Bytes()
}

func BenchmarkPreview50000(b *testing.B) {
	data, p := big(50_000), yard(b)
	for b.Loop() {
		rows, err := ReadCSV(data)
		if err != nil {
			b.Fatal(err)
		}
		Preview(rows, p, Options{})
	}
}

// TestValuesAreNumbersInAWorkbook: what was measured is reckoned with, and what
// only begins like a formula stays text.
func TestValuesAreNumbersInAWorkbook(t *testing.T) {
	var b bytes.Buffer
	err := WriteValues(&b, XLSX, "recorded", func(line func([]string) error) error {
		return line([]string{"2026-11-29T05:00:00.000Z", "-12.5", "=1+1", "", "1e3"})
	})
	if err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(&b)
	if err != nil {
		t.Fatal(err)
	}
	for cell, number := range map[string]bool{"A1": false, "B1": true, "C1": false, "E1": true} {
		kind, err := f.GetCellType("recorded", cell)
		if text := kind == excelize.CellTypeInlineString || kind == excelize.CellTypeSharedString; err != nil || text == number {
			t.Errorf("%s: %v %v", cell, kind, err)
		}
	}
	if formula, _ := f.GetCellFormula("recorded", "C1"); formula != "" {
		t.Errorf("a formula: %s", formula)
	}
}
