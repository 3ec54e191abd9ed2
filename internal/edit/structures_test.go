package edit_test

import (
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
)

const ovens = `<project><types><dataTypes>
 <dataType name="BLOWER"><baseType><struct>
  <variable name="Running"><type><BOOL/></type></variable>
  <variable name="Speed"><type><INT/></type></variable></struct></baseType></dataType>
 <dataType name="OVEN"><baseType><struct>
  <variable name="Heat"><type><REAL/></type></variable>
  <variable name="Blower"><type><array><dimension lower="1" upper="3"/><baseType><derived name="BLOWER"/></baseType></array></type></variable></struct></baseType></dataType>
 </dataTypes></types>
 <globalVars name="Line">
  <variable name="North"><type><derived name="OVEN"/></type></variable>
  <variable name="South"><type><derived name="OVEN"/></type></variable>
  <variable name="Spare"><type><derived name="BLOWER"/></type></variable>
  <variable name="Count"><type><DINT/></type></variable>
 </globalVars></project>`

// The derived types of a file become types, and its structures equipment.
func TestStructuresOfAFileBecomeEquipment(t *testing.T) {
	e := newEdits(t)
	ada := access.Actor{ID: "ada", Name: "Ada"}
	info, err := e.BeginImport(t.Context(), ada, "line.xml", "", []byte(ovens))
	if err != nil || strings.Join(info.Types, " ") != "OVEN BLOWER" {
		t.Fatalf("%v %v", info, err)
	}
	done, err := e.ApplyImport(t.Context(), ada, info.ID, edit.Choice{Statuses: []exchange.Status{exchange.New}, Types: true})
	if err != nil || done.Tags != 17 || strings.Join(done.Types, " ") != "OVEN" || len(done.Problems) != 1 {
		t.Fatalf("%+v %v", done, err)
	}
	d := e.Draft()
	typeOf := func(path string) string {
		id, ok := d.FindFolder(path)
		if tp := d.Type(d.TypeOf(id)); ok && tp != nil {
			return tp.Name
		}
		return "no equipment"
	}
	for path, want := range map[string]string{"Line.North": "OVEN", "Line.South": "OVEN", "Line.South.Blower[3]": "BLOWER",
		"Line.Spare": "no equipment"} {
		if got := typeOf(path); got != want {
			t.Errorf("%s is %s, want %s", path, got, want)
		}
	}
	if id, ok := d.FindPath("Line.North.Blower[2].Speed"); !ok || d.Tags[id] == nil {
		t.Error("a member of the structure is no tag any more")
	}
	// Without the wish they stay folders.
	info, err = e.BeginImport(t.Context(), ada, "line.xml", "",
		[]byte(strings.NewReplacer("OVEN", "PRESS", "BLOWER", "PUMP", `name="Line"`, `name="Hall"`).Replace(ovens)))
	if err != nil {
		t.Fatal(err)
	}
	if done, err = e.ApplyImport(t.Context(), ada, info.ID, edit.Choice{Statuses: []exchange.Status{exchange.New}}); err != nil ||
		len(done.Types) != 0 {
		t.Fatalf("%+v %v", done, err)
	}
	d = e.Draft()
	if got := typeOf("Hall.North"); got != "no equipment" {
		t.Errorf("Hall.North is %s", got)
	}
}
