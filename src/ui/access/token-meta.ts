/** The name of the element in the page's head that holds the token of the session. */
export const TOKEN_META = 'zero-latch-token';
