/** Names of what opens here. */
export const RECIPES = 'recipes';
export const DRAWER = 'treatment';
