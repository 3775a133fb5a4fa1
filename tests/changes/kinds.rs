//! A row for each way in which two projects can differ, with all that is told of it.
