package host

import (
	"context"
	"encoding/json"
	"fmt"

	"readyrail/internal/core/project"
)

// MakeType makes a type of a folder and equipment of what is alike.
func (p *Project) MakeType(ctx context.Context, who Actor, t project.TypeOf, apply bool) (*Plan, error) {
	list, ops, err := p.Draft().PlanType(t, newID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return p.carryOutPlan(ctx, who, "make the type "+t.Name, apply, list, 0, ops)
}

// MakeEquipment makes instances of a type.
func (p *Project) MakeEquipment(ctx context.Context, who Actor, n project.NewEquipment, apply bool) (*Plan, error) {
	list, ops, err := p.Draft().PlanEquipment(n, newID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return p.carryOutPlan(ctx, who, fmt.Sprintf("make %d pieces of equipment", len(list)), apply, list, 0, ops)
}

// Retyping makes an instance one of another type.
type Retyping struct {
	Equipment string `json:"equipment" maxLength:"64"`
	Type      string `json:"type" maxLength:"64"`
}

// Retype makes an instance one of another type.
func (p *Project) Retype(ctx context.Context, who Actor, r Retyping, apply bool) (*Plan, error) {
	list, ops, err := p.Draft().Retype(r.Equipment, r.Type)
	if err != nil {
		return nil, refused("%v", err)
	}
	return p.carryOutPlan(ctx, who, "change the type of equipment", apply, list, 0, ops)
}

// Detach makes plain tags of an instance.
func (p *Project) Detach(ctx context.Context, who Actor, id string) error {
	ops, err := p.Draft().Detach(id)
	if err != nil {
		return refused("%v", err)
	}
	_, err = p.Edit(ctx, who, "detach equipment", ops)
	return err
}

// AddPicture keeps a picture in the draft and returns its id.
func (p *Project) AddPicture(ctx context.Context, who Actor, x *project.Picture) (string, error) {
	doc, err := json.Marshal(x)
	if err != nil {
		return "", err
	}
	id := newID(project.KindPicture)
	_, err = p.Edit(ctx, who, "bring "+x.Name+" in", []project.Op{{Kind: project.KindPicture, ID: id, Value: doc}})
	return id, err
}

// SetWords gives texts their wordings in a language.
func (p *Project) SetWords(ctx context.Context, who Actor, language string, rows []project.SheetRow) error {
	ops, err := p.Draft().PlanWords(language, rows)
	if err != nil {
		return refused("%v", err)
	}
	_, err = p.Edit(ctx, who, "wordings in "+language, ops)
	return err
}
