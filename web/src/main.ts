import 'carbon-components-svelte/css/all.css';
import './app.css';
import './carbon.css';
import './shell/room.svelte';
import { mount } from 'svelte';
import App from './App.svelte';
import { askEarly } from './board/data.svelte';

const target = document.getElementById('app');
if (!target) throw new Error('index.html has lost its #app');
const tray = /^\/trays\/(\d+)$/.exec(location.pathname)?.[1];
if (tray) askEarly(Number(tray));
mount(App, { target });
