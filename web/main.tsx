import './theme/theme.css';
import { createRoot } from 'react-dom/client';
import { App } from './app/app.tsx';
import { keepTheme } from './app/theme-choice.ts';

keepTheme();

const root = document.getElementById('root');
if (root) createRoot(root).render(<App />);
