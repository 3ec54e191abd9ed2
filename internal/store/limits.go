package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// AlarmLimit is the limit of an alarm as it was changed at the Desk.
type AlarmLimit struct {
	Alarm  string `db:"alarm"`
	Value  string `db:"value"` // a number with a decimal point
	Person string `db:"person"`
	Reason string `db:"reason"`
	At     int64  `db:"at"` // nanoseconds since 1970
}

// AlarmLimits lists them.
func (s *State) AlarmLimits(ctx context.Context) ([]AlarmLimit, error) {
	out := []AlarmLimit{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM alarm_limit ORDER BY alarm")
}

// PutAlarmLimit keeps a limit, in the place of one of the same alarm.
func (s *State) PutAlarmLimit(ctx context.Context, l AlarmLimit) error {
	_, err := s.db.NamedExecContext(ctx, "INSERT OR REPLACE INTO alarm_limit (alarm, value, person, reason, at) VALUES (:alarm, :value, :person, :reason, :at)", l)
	return err
}

// DropAlarmLimits forgets limits, all or none.
func (s *State) DropAlarmLimits(ctx context.Context, alarms []string) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, id := range alarms {
			if _, err := tx.ExecContext(ctx, "DELETE FROM alarm_limit WHERE alarm = ?", id); err != nil {
				return err
			}
		}
		return nil
	})
}
