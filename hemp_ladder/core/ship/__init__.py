"""Ship: files for a target, and the proof that they arrived right. `deliver.climb_ship` is the way in."""
