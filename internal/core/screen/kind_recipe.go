package screen

// recipeKinds show a book of recipes and let people work in it.
var recipeKinds = []*Kind{
	{Name: "recipes", Title: "Recipes", Stock: "values", W: 1200, H: 560,
		Props: props(Prop{Name: "book", Title: "Book", Type: TypeBook, Default: ""},
			Prop{Name: "equipment", Title: "Only for", Type: TypeFolder, Default: ""},
			flag("list", "List of recipes", true, false), flag("send", "Sending", true, false), flag("edits", "Editing", true, false)), Page: true},
}
