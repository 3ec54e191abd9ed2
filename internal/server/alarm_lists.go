package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// Lists of alarms as tables: out, and in again with a preview.
func (s *Server) alarmListRoutes() {
	get(s, "/api/projects/{project}/alarm-definitions/sheet", "The alarms of the draft as a list", func(ctx context.Context, in *struct {
		Scope
		Format string `query:"format" enum:"csv,xlsx" default:"csv"`
	}) (*fileOutput, error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		d := p.Draft()
		return tableFile("alarms", exchange.Format(in.Format), func(line func([]string) error) error {
			if err := line(project.AlarmHeader()); err != nil {
				return err
			}
			for _, id := range d.SortedAlarms() {
				if err := line(d.AlarmLine(d.Alarms[id])); err != nil {
					return err
				}
			}
			return nil
		})
	})
	send(s, http.MethodPost, "/api/projects/{project}/alarm-definitions/sheet", "What a list of alarms would change; with apply, change it",
		func(ctx context.Context, in *struct {
			Scope
			Apply   bool   `query:"apply"`
			RawBody []byte `contentType:"application/octet-stream" maxLength:"16777216"`
		}) (*body[edit.Plan], error) {
			return s.planOfSheet(ctx, in.Scope, in.RawBody, func(p *host.Project, who host.Actor, cells [][]string) (*edit.Plan, error) {
				return p.BringAlarmsIn(ctx, who, cells, in.Apply)
			})
		})
}

// planOfSheet is what an edit in bulk makes of the cells of a workbook or of a text, as
// they were before they were made inert for spreadsheets.
func (s *Server) planOfSheet(ctx context.Context, scope Scope, data []byte,
	act func(p *host.Project, who host.Actor, cells [][]string) (*edit.Plan, error)) (*body[edit.Plan], error) {
	who, p, err := s.enter(ctx, scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	table, err := exchange.ReadTable(data)
	if err != nil {
		return nil, problem(&host.Refused{Why: err})
	}
	for _, row := range table.Cells {
		for i := range row {
			row[i] = value.Live(row[i])
		}
	}
	plan, err := act(p, who, table.Cells)
	if err != nil {
		return nil, problem(err)
	}
	return &body[edit.Plan]{*plan}, nil
}
