// The phone's page: a photo is made smaller before it is sent.
import { showName } from './bench/photo.js';

showName();
