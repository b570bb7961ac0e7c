// Places: the tree, what a node inherits from those above it, positions of sites.
export * from './place.ts';
export * from './tree.ts';
export * from './geo.ts';
