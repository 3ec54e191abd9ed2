package edit

import (
	"context"
	"encoding/json"
	"fmt"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// MakeType makes a type of a folder and equipment of what is alike.
func (e *Edits) MakeType(ctx context.Context, who access.Actor, t project.TypeOf, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanType(t, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, "make the type "+t.Name, apply, list, 0, ops)
}

// MakeEquipment makes instances of a type.
func (e *Edits) MakeEquipment(ctx context.Context, who access.Actor, n project.NewEquipment, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanEquipment(n, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("make %d pieces of equipment", len(list)), apply, list, 0, ops)
}

// Retyping makes an instance one of another type.
type Retyping struct {
	Equipment string `json:"equipment" maxLength:"64"`
	Type      string `json:"type" maxLength:"64"`
}

// Retype makes an instance one of another type.
func (e *Edits) Retype(ctx context.Context, who access.Actor, r Retyping, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().Retype(r.Equipment, r.Type)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, "change the type of equipment", apply, list, 0, ops)
}

// Detach makes plain tags of an instance.
func (e *Edits) Detach(ctx context.Context, who access.Actor, id string) error {
	ops, err := e.Draft().Detach(id)
	if err != nil {
		return refused("%v", err)
	}
	_, err = e.Edit(ctx, who, "detach equipment", ops)
	return err
}

// AddPicture keeps a picture in the draft and returns its id.
func (e *Edits) AddPicture(ctx context.Context, who access.Actor, x *project.Picture) (string, error) {
	doc, err := json.Marshal(x)
	if err != nil {
		return "", err
	}
	id := store.NewID(project.KindPicture)
	_, err = e.Edit(ctx, who, "bring "+x.Name+" in", []project.Op{{Kind: project.KindPicture, ID: id, Value: doc}})
	return id, err
}

// SetWords gives texts their wordings in a language.
func (e *Edits) SetWords(ctx context.Context, who access.Actor, language string, rows []project.SheetRow) error {
	ops, err := e.Draft().PlanWords(language, rows)
	if err != nil {
		return refused("%v", err)
	}
	_, err = e.Edit(ctx, who, "wordings in "+language, ops)
	return err
}
