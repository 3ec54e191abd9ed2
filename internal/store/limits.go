package store

import "context"

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

// DropAlarmLimit forgets a limit.
func (s *State) DropAlarmLimit(ctx context.Context, alarm string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM alarm_limit WHERE alarm = ?", alarm)
	return err
}
