export { asSound, soundFileAs, streamedSound } from './entry-sound';
export { soundForm } from './sound-form';
