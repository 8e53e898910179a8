import { closeOpened } from './app';

afterAll(closeOpened);
