package server

import (
	"context"
	"net/http"

	"readyrail/internal/host"
)

// backupRoutes let who manages the server see, plan and take backups of it.
func (s *Server) backupRoutes() {
	answer := func(ctx context.Context, who host.Actor) (*body[*host.BackupState], error) {
		state, err := s.host.Backups(who)
		if err == nil && state.Last != nil && state.Last.Why != nil {
			state.Last.Problem = said(ctx, state.Last.Why)
		}
		return &body[*host.BackupState]{state}, problem(err)
	}
	get(s, "/api/backups", "How backups of the server stand", func(ctx context.Context, in *PanelInput) (*body[*host.BackupState], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		return answer(ctx, who)
	})
	send(s, http.MethodPut, "/api/backups", "Plan backups of the server", func(ctx context.Context, in *struct {
		PanelInput
		Body host.BackupPlan
	}) (*body[*host.BackupState], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		if err := s.host.SetBackupPlan(ctx, who, in.Body); err != nil {
			return nil, problem(err)
		}
		return answer(ctx, who)
	})
	send(s, http.MethodPost, "/api/backups", "Begin a backup of the server",
		func(ctx context.Context, in *PanelInput) (*body[*host.BackupState], error) {
			who, err := s.manages(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			if err := s.host.BeginBackup(ctx, who); err != nil {
				return nil, problem(err)
			}
			return answer(ctx, who)
		})
}
