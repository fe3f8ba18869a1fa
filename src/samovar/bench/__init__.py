"""Making a recording: the recorder, the course, the guard and the loads."""
