package access

// Actor is who does something, and from where.
type Actor struct {
	ID    string
	Name  string // full name
	Login string // signs in with it
	Owner bool
	// Server says that the person manages the server; the owner does.
	Server bool
	// Second says that the account asks for one-time codes; ByPIN that this sign-in was
	// by a PIN, which asks for none.
	Second, ByPIN bool
	// Directory says that the company's directory has the person's name and password.
	Directory bool
	// Epoch is that of the secret that the person signed in with.
	Epoch int64
	Panel string // name of the enrolled panel, empty elsewhere
	// Watches is the project that may be looked at with nobody signed in; empty
	// for a person.
	Watches string
	// Role is the one that it acts in, by id, for what is no person: tags that ask
	// for a recipe.
	Role string
	// As is set while a person looks with the rights of a role in place of their own,
	// and changes nothing meanwhile; nil otherwise.
	As *As
	// Session tells one sign-in from another; From is the address it came from.
	Session, From string
}

// As is the role, in an area of a project, with whose rights a person looks. The
// empty area is the whole plant.
type As struct{ Project, Role, Area string }

// Looks is the person with the rights of a role alone, and none beyond it.
func (a Actor) Looks(as As) Actor {
	a.As, a.Owner, a.Server = &as, false, false
	return a
}
