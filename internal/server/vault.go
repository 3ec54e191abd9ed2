package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/host"
)

func (s *Server) vaultRoutes() {
	get(s, "/api/vault", "The credentials by name, without their secrets",
		func(ctx context.Context, in *PanelInput) (*body[[]host.VaultEntry], error) {
			who, err := s.actor(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			if err := s.engineerAnywhere(ctx, who); err != nil {
				return nil, err
			}
			list, err := s.host.Vault(ctx, who)
			return &body[[]host.VaultEntry]{list}, problem(err)
		})
	send(s, http.MethodPut, "/api/vault", "Put a credential", func(ctx context.Context, in *struct {
		PanelInput
		Body host.NewVaultEntry
	}) (*struct{}, error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		return nil, problem(s.host.PutVault(ctx, who, in.Body))
	})
	send(s, http.MethodDelete, "/api/vault/{name}", "Take a credential away", func(ctx context.Context, in *struct {
		PanelInput
		Name string `path:"name" maxLength:"60"`
	}) (*struct{}, error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		return nil, problem(s.host.DropVault(ctx, who, in.Name))
	})
	send(s, http.MethodPost, "/api/vault/export", "The vault under a passphrase, in the age format", func(ctx context.Context, in *struct {
		PanelInput
		Body struct {
			Passphrase string `json:"passphrase" maxLength:"200"`
		}
	}) (*fileOutput, error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		b, err := s.host.ExportVault(ctx, who, in.Body.Passphrase)
		return &fileOutput{"application/octet-stream", `attachment; filename="vault.age"`, b}, problem(err)
	})
	send(s, http.MethodPost, "/api/vault/import", "Take the entries of an export", func(ctx context.Context, in *struct {
		PanelInput
		Body struct {
			Passphrase string `json:"passphrase" maxLength:"200"`
			File       []byte `json:"file" maxLength:"4194304" doc:"in base64"`
		}
	}) (*body[Applied], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		n, err := s.host.ImportVault(ctx, who, in.Body.File, in.Body.Passphrase)
		return &body[Applied]{Applied{Tags: n}}, problem(err)
	})
}

// engineerAnywhere lets whoever builds devices see which credentials there are.
func (s *Server) engineerAnywhere(ctx context.Context, who host.Actor) error {
	if who.Owner {
		return nil
	}
	for _, p := range s.host.Projects() {
		if p.May(ctx, who, access.Engineer, true) {
			return nil
		}
	}
	return problem(&access.Denied{Right: access.Engineer})
}

// manages asks for who manages the server.
func (s *Server) manages(ctx context.Context, panel string) (host.Actor, error) {
	who, err := s.actor(ctx, panel)
	if err == nil && !who.Server {
		err = because(http.StatusForbidden, say.New("only who manages the server may do this"))
	}
	return who, err
}
