/** Words of a swarm's instance: see `SwarmView`. By itself, since whoever lays out buffers needs no more of swarms. */
export const INSTANCE_WORDS = 4;
