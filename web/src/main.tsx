document.title = "Hemp Ladder";
