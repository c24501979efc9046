package access

// TaughtSheet holds for a sheet a of a class that the instructor who asks teaches.
const TaughtSheet = "a.class IN (SELECT class FROM teaching WHERE instructor = ?)"

// Role is what an instructor may do in a class.
type Role string

// The roles, from all to least.
const (
	Owner  Role = "leads" // everything
	Marker Role = "marks" // mark, release, ask on the Board, keep people's passphrases and minutes
	Viewer Role = "looks" // look only
)

// May reports whether the role is enough for what asks another.
func (r Role) May(what Role) bool {
	rank := map[Role]int{Viewer: 1, Marker: 2, Owner: 3}
	return rank[r] > 0 && rank[r] >= rank[what]
}

// Taught holds for a class c that the instructor who asks leads, or teaches along in.
const Taught = "c.id IN (SELECT class FROM teaching WHERE instructor = ?)"
