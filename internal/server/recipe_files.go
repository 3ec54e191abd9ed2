package server

import (
	"context"
	"encoding/json"
	"net/http"

	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// bookPlanRoutes make fields of sheets and blocks of registers.
func (s *Server) bookPlanRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/books/{book}/fields/sheet",
		"What fields a sheet makes; with apply, make them",
		func(ctx context.Context, in *struct {
			BookScope
			Apply   bool   `query:"apply"`
			RawBody []byte `contentType:"application/octet-stream" maxLength:"16777216"`
		}) (*body[edit.Plan], error) {
			return s.planOfSheet(ctx, in.Scope, in.RawBody, func(p *host.Project, who host.Actor, cells [][]string) (*edit.Plan, error) {
				return p.AddFields(ctx, who, in.Book, cells, in.Apply)
			})
		})
	bulk(s, "/api/projects/{project}/plans/open-recipe", "Make the tags by which elements show and edit the recipe that is open",
		func(p *host.Project, ctx context.Context, who host.Actor, m project.OpenTags, apply bool) (*edit.Plan, error) {
			return p.OpenTags(ctx, who, m, apply)
		})
	bulk(s, "/api/projects/{project}/plans/block", "Lay the fields of a book out in a block of registers",
		func(p *host.Project, ctx context.Context, who host.Actor, b project.FieldBlock, apply bool) (*edit.Plan, error) {
			return p.LayBlock(ctx, who, b, apply)
		})
}

// recipeFileRoutes bring recipes to files and back.
func (s *Server) recipeFileRoutes() {
	get(s, "/api/projects/{project}/books/{book}/sheet", "The recipes of a book as a sheet, a row a recipe, or as JSON",
		func(ctx context.Context, in *struct {
			BookScope
			Format string `query:"format" enum:"csv,xlsx,json" default:"csv"`
		}) (*fileOutput, error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			if in.Format != "json" {
				return fileBy(exchange.WriteValues, "recipes", exchange.Format(in.Format), func(line func([]string) error) error {
					return p.RecipeLines(ctx, who, in.Book, in.draft(), line)
				})
			}
			list := []host.RecipeJSON{}
			err = p.EachRecipe(ctx, who, in.Book, in.draft(), func(_ *recipe.Book, r host.RecipeJSON) error {
				list = append(list, r)
				return nil
			})
			if err != nil {
				return nil, problem(err)
			}
			doc, err := json.MarshalIndent(list, "", "  ")
			return &fileOutput{"application/json", `attachment; filename="recipes.json"`, doc}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/books/{book}/sheet", "What a sheet of recipes would do; nothing is changed by it",
		func(ctx context.Context, in *struct {
			BookScope
			RawBody []byte `contentType:"application/octet-stream" maxLength:"16777216"`
		}) (*body[host.RecipeFile], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			file, err := p.ReadRecipes(ctx, who, in.Book, in.draft(), in.RawBody)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.RecipeFile]{*file}, nil
		})
}
