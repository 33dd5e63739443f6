/**
 * Of two views of one thing the one that was looked up later. What was asked for before an event can arrive after it:
 * taken as it comes, the older would stay for good, as nothing tells of what has been told.
 */
export const newest = <View extends { stamp: number }>(known: View | undefined, come: View): View =>
  known && known.stamp > come.stamp ? known : come;
