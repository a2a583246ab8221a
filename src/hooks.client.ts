import { askingAgain } from '$lib/ui/common/ask-again';

window.fetch = askingAgain(window.fetch.bind(window), location.href);
