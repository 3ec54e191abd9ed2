package server

import (
	"context"
	"net/http"
	"time"

	"readyrail/internal/core/recipe"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// ShelfScope is a project whose recipes are asked for.
type ShelfScope struct {
	Scope
	Program string `query:"program" enum:"draft,release,try" default:"release" doc:"the plant's recipes, through its book or the draft's; or a trial's"`
}

func (in ShelfScope) draft() bool { return in.Program == string(run.Draft) }

// BookScope is a book of a project.
type BookScope struct {
	ShelfScope
	Book string `path:"book" maxLength:"60"`
}

// shelf finds the recipes that are asked for, and who asks.
func (s *Server) shelf(ctx context.Context, in ShelfScope) (host.Actor, *host.Shelf, error) {
	who, p, err := s.enter(ctx, in.Scope, "")
	if err != nil {
		return who, nil, err
	}
	shelf, err := p.Shelf(ctx, who, run.Program(in.Program))
	return who, shelf, problem(err)
}

// recipeRoutes are the endpoints of books and their recipes.
func (s *Server) recipeRoutes() {
	get(s, "/api/projects/{project}/books", "The books of recipes",
		func(ctx context.Context, in *struct {
			ShelfScope
			Language string `query:"language" maxLength:"12" doc:"of the project; its first where none is given"`
		}) (*body[[]host.BookShown], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			list, err := p.Books(ctx, who, in.draft(), in.Language)
			return &body[[]host.BookShown]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/books/{book}/recipes", "The recipes of a book by name, a page",
		func(ctx context.Context, in *struct {
			BookScope
			Text  string `query:"text" maxLength:"80" doc:"that names have"`
			State string `query:"state" enum:",draft,approved"`
			Gone  bool   `query:"gone" doc:"those that were deleted and can be brought back"`
			Order string `query:"order" enum:",changed" doc:"by name, or by the last change"`
			Skip  int    `query:"skip" minimum:"0"`
		}) (*body[host.RecipePage], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			page, err := p.Recipes(
				ctx,
				who,
				host.RecipeAsk{
					Book:  in.Book,
					Text:  in.Text,
					State: in.State,
					Gone:  in.Gone,
					Order: in.Order,
					Skip:  in.Skip,
					Draft: in.draft(),
				},
			)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.RecipePage]{*page}, nil
		})
	get(s, "/api/projects/{project}/carried-recipes", "What a release of the draft's books would make of the plant's recipes",
		func(ctx context.Context, in *ShelfScope) (*body[host.CarryPreview], error) {
			who, p, err := s.shelf(ctx, *in)
			if err != nil {
				return nil, err
			}
			preview, err := p.CarryPreview(ctx, who)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.CarryPreview]{*preview}, nil
		})
	get(s, "/api/projects/{project}/recipes/{id}/versions", "The versions of a recipe, newest first",
		func(ctx context.Context, in *struct {
			ShelfScope
			ID string `path:"id" maxLength:"60"`
		}) (*body[[]host.VersionShown], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			list, err := p.Versions(ctx, who, in.ID)
			return &body[[]host.VersionShown]{list}, problem(err)
		})
	send(
		s,
		http.MethodPost,
		"/api/projects/{project}/books/{book}/sheets",
		"Look at recipes and targets side by side, with limits, checks and differences",
		func(ctx context.Context, in *struct {
			BookScope
			Body struct {
				Columns []host.SheetAsk `json:"columns" maxItems:"60"`
			}
		}) (*body[[]host.Sheet], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			list, err := p.Sheets(ctx, who, in.Book, in.draft(), in.Body.Columns)
			return &body[[]host.Sheet]{list}, problem(err)
		},
	)
	send(
		s,
		http.MethodPost,
		"/api/projects/{project}/books/{book}/fields",
		"Fields for a book of the draft, made from tags; nothing is changed by it",
		func(ctx context.Context, in *struct {
			BookScope
			Body struct {
				Like string   `json:"like,omitempty" maxLength:"200" doc:"pattern of paths, such as Kiln1.Schedule.*"`
				Tags []string `json:"tags,omitempty" maxItems:"1000" doc:"ids"`
			}
		}) (*body[[]recipe.Field], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.BookFields(ctx, who, in.Book, in.Body.Like, in.Body.Tags)
			return &body[[]recipe.Field]{list}, problem(err)
		},
	)
	get(s, "/api/projects/{project}/books/{book}/point", "A tag as a book of the draft refers to it",
		func(ctx context.Context, in *struct {
			BookScope
			Tag string `query:"tag" maxLength:"200" doc:"id"`
		}) (*body[string], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			ref, err := p.BookPoint(ctx, who, in.Book, in.Tag)
			return &body[string]{ref}, problem(err)
		})
	s.recipeActRoutes()
	s.recipeFileRoutes()
	s.bookPlanRoutes()
	s.deliveryRoutes()
}

// recipeActRoutes change recipes.
func (s *Server) recipeActRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/books/{book}/recipes", "Make recipes and further versions of them, all or none",
		func(ctx context.Context, in *struct {
			BookScope
			Body struct {
				Recipes []host.RecipeDraft `json:"recipes" minItems:"1" maxItems:"10000"`
				Why     string             `json:"why,omitempty" maxLength:"300"`
			}
		}) (*body[[]string], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			ids, err := p.SaveRecipes(ctx, who, in.Book, in.draft(), in.Body.Recipes, in.Body.Why)
			return &body[[]string]{ids}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/books/{book}/deletions", "Delete recipes, or bring deleted ones back, all or none",
		func(ctx context.Context, in *struct {
			BookScope
			Body struct {
				Recipes []string `json:"recipes" minItems:"1" maxItems:"10000" doc:"ids"`
				Back    bool     `json:"back,omitempty" doc:"bring them back"`
				Why     string   `json:"why,omitempty" maxLength:"300"`
			}
		}) (*body[int], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			count, err := p.DeleteRecipes(ctx, who, in.Book, in.Body.Recipes, in.Body.Back, in.Body.Why)
			return &body[int]{count}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/recipes/{id}/name", "Give a recipe another name",
		func(ctx context.Context, in *struct {
			ShelfScope
			ID   string `path:"id" maxLength:"60"`
			Body struct {
				Name string `json:"name" maxLength:"80"`
			}
		}) (*struct{}, error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.RenameRecipe(ctx, who, in.ID, in.Body.Name))
		})
	send(s, http.MethodPost, "/api/projects/{project}/recipes/{id}/judgements", "Approve or withdraw a version of a recipe",
		func(ctx context.Context, in *struct {
			ShelfScope
			ID   string `path:"id" maxLength:"60"`
			Body host.Judgement
		}) (*body[Done], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			return done(p.JudgeRecipe(ctx, who, in.ID, in.Body))
		})
}

// deliveryRoutes are the endpoints of deliveries.
func (s *Server) deliveryRoutes() {
	get(s, "/api/projects/{project}/books/{book}/targets", "What each target of a book runs, and what is under way or left to deal with",
		func(ctx context.Context, in *BookScope) (*body[[]host.TargetState], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			list, err := p.TargetStates(ctx, who, in.Book)
			return &body[[]host.TargetState]{list}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/books/{book}/plans", "What a delivery would do, and what stands against it",
		func(ctx context.Context, in *struct {
			BookScope
			Body host.DeliveryAsk
		}) (*body[host.DeliveryPlan], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			plan, err := p.PlanDelivery(ctx, who, in.Book, in.Body)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.DeliveryPlan]{*plan}, nil
		})
	send(
		s,
		http.MethodPost,
		"/api/projects/{project}/books/{book}/deliveries",
		"Send a recipe to a target; the answer is the delivery's number",
		func(ctx context.Context, in *struct {
			BookScope
			Body struct {
				host.DeliveryAsk
				Key string `json:"key" maxLength:"64" doc:"the command's own; the same key is taken once"`
				host.Given
			}
		}) (*body[int64], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			b := in.Body
			seq, err := p.Deliver(
				ctx,
				who,
				in.Book,
				host.DeliveryOrder{DeliveryAsk: b.DeliveryAsk, Key: b.Key, Given: b.Given},
			)
			return &body[int64]{seq}, problem(err)
		},
	)
	get(s, "/api/projects/{project}/books/{book}/deliveries", "The deliveries of a book, newest first, a page",
		func(ctx context.Context, in *struct {
			BookScope
			Target string `query:"target" maxLength:"200" doc:"id; all where it is not given"`
			Before int64  `query:"before" minimum:"0" doc:"number that the page ends before; 0 for the newest"`
			Upto   int64  `query:"upto" minimum:"0" doc:"milliseconds since 1970 at which they had begun; 0 for now"`
		}) (*body[[]host.DeliveryShown], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			var target *string
			if in.Target != "" {
				target = &in.Target
			}
			var upto time.Time
			if in.Upto > 0 {
				upto = time.UnixMilli(in.Upto)
			}
			list, err := p.Deliveries(ctx, who, in.Book, target, in.Before, upto)
			return &body[[]host.DeliveryShown]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/deliveries/{seq}", "A delivery with its fields",
		func(ctx context.Context, in *struct {
			ShelfScope
			Seq int64 `path:"seq"`
		}) (*body[host.DeliveryShown], error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			d, err := p.Delivery(ctx, who, in.Seq)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.DeliveryShown]{*d}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/deliveries/{seq}/acts", "Give up a delivery, or deal with what it left",
		func(ctx context.Context, in *struct {
			ShelfScope
			Seq  int64 `path:"seq"`
			Body struct {
				Act    string `json:"act" enum:"cancel,accept,putback"`
				Key    string `json:"key,omitempty" maxLength:"64" doc:"of putting back: the command's own"`
				Reason string `json:"reason,omitempty" maxLength:"300" doc:"why what it left stays"`
			}
		}) (*struct{}, error) {
			who, p, err := s.shelf(ctx, in.ShelfScope)
			if err != nil {
				return nil, err
			}
			switch in.Body.Act {
			case "cancel":
				err = p.CancelDelivery(ctx, who, in.Seq)
			case "accept":
				err = p.SettleDelivery(ctx, who, in.Seq, in.Body.Reason)
			default:
				err = p.PutBackDelivery(ctx, who, in.Seq, in.Body.Key)
			}
			return nil, problem(err)
		})
}
