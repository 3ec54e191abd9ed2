package screen

// What shows a book of recipes and lets people work in it. All elements of one book
// on a panel share what is open and what is edited there.

func bookProp() Prop { return Prop{Name: "book", Title: "Book", Type: TypeBook, Default: ""} }
func forEquipment() Prop {
	return Prop{Name: "equipment", Title: "Only for", Type: TypeFolder, Default: ""}
}
func editsRecipes() Prop { return flag("edits", "Editing", true, false) }
func recipePart(name, title string, w, h float64, with ...any) *Kind {
	return &Kind{Name: name, Title: title, Stock: "recipes", W: w, H: h, Props: props(append([]any{bookProp()}, with...)...), Page: true}
}

var recipeKinds = []*Kind{
	recipePart("recipes", "Recipes", 1200, 560, forEquipment(),
		flag("list", "List of recipes", true, false), flag("send", "Sending", true, false), editsRecipes()),
	recipePart("recipelist", "List of recipes", 260, 420,
		choice("filter", "Begins with", "all", "all", "approved", "not approved"),
		choice("order", "Order", "name", "name", "last changed"), flag("searched", "Search and filters", true, false),
		flag("ticked", "Ticks for several", true, false), flag("marked", "State and version", true, false),
		flag("signed", "Who changed it, and when", false, false), editsRecipes()),
	// Fields are named by patterns, in the order in which they are shown.
	recipePart("recipetable", "Table of recipes", 640, 420,
		Prop{Name: "fields", Title: "Fields, such as Step[1].*", Type: TypeText, Default: ""},
		flag("across", "Recipes as rows", false, false), editsRecipes()),
	recipePart("recipetargets", "Recipes in the devices", 320, 300, forEquipment()),
	recipePart("recipesend", "Sending a recipe", 320, 380, forEquipment()),
	recipePart("recipefield", "Field of a recipe", 240, 76,
		Prop{Name: "field", Title: "Field", Type: TypeField, Default: ""}, editsRecipes()),
	recipePart("recipebutton", "Button for recipes", 168, 48,
		choice("does", "Does", "choose", "choose", "new", "save", "undo", "approve", "delete", "read", "send"), forEquipment(), caption("")),
}
