import './guest.css';
import { mount } from 'svelte';
import Guest from './Guest.svelte';

const target = document.getElementById('guest');
if (!target) throw new Error('guest.html has lost its #guest');
// The room is dark where the system is.
const dark = matchMedia('(prefers-color-scheme: dark)');
const paint = () => (document.documentElement.dataset['room'] = dark.matches ? 'dark' : 'light');
paint();
dark.addEventListener('change', paint);
mount(Guest, { target });
