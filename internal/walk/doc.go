// Package walk holds random walks through the use cases, as tests: acts that people and machines
// do, in orders that nobody wrote down, and what must hold after them. A failure prints its seed
// and the shortest list of acts that still fails. LUCID_WALK_ACTS says how many acts,
// LUCID_WALK_MINUTES for how long instead, and LUCID_WALK_SEED with which seed to begin.
package walk
