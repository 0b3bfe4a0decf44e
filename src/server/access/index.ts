export { isOpenToOthers, readAccessFile } from './access-file';
export { passage, ROLE_HEADER, TOKEN_HEADER } from './gate';
export { COOKIE, noCookie } from './session';
export { signIn } from './sign-in';
