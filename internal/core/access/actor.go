package access

// Actor is who does something, and from where.
type Actor struct {
	ID    string
	Name  string // full name
	Login string // signs in with it
	Owner bool
	// Server says that the person manages the server; the owner does.
	Server bool
	// Epoch is that of the secret that the person signed in with.
	Epoch int64
	Panel string // name of the enrolled panel, empty elsewhere
	// Watches is the project that may be looked at with nobody signed in; empty
	// for a person.
	Watches string
	// Role is the one that it acts in, by id, for what is no person: tags that ask
	// for a recipe.
	Role string
	// Session tells one sign-in from another; From is the address it came from.
	Session, From string
}
