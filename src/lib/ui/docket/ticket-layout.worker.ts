import { figuresOf, type TicketQuestion } from './ticket-layout';

/** Lays out many copies away from the screen's own thread. */
onmessage = ({ data }: MessageEvent<{ turn: number; question: TicketQuestion }>) => {
  postMessage({ turn: data.turn, figures: figuresOf(data.question) });
};
