import { describe, expect, it } from 'vitest';
import { refusal } from './gate';

const ask = (headers: Record<string, string>, method = 'GET', path = '/api/dockets') =>
  refusal(method, path, new Headers({ host: '127.0.0.1:4780', ...headers }));
const FROM_HERE = { 'sec-fetch-site': 'same-origin', origin: 'http://127.0.0.1:4780' };

describe('the gate', () => {
  it.each([
    ['its own pages', FROM_HERE],
    ['a program on this machine', {}],
    ['an address that was typed', { 'sec-fetch-site': 'none', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }],
    ['this machine by another of its names', { host: 'localhost:4780', origin: 'http://localhost:4780' }],
    ['its address in version 6', { host: '[::1]:4780' }]
  ])('answers %s', (_who, headers) => {
    expect(ask(headers)).toBeUndefined();
    expect(ask(headers, 'POST')).toBeUndefined();
  });

  it('opens a page that a link elsewhere leads to, and gives that page nothing else', () => {
    const link = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
    expect(ask(link, 'GET', '/dockets/3')).toBeUndefined();
    expect(ask(link, 'GET', '/api/dockets')).toMatch(/other sites/);
    expect(ask(link, 'POST', '/dockets/3')).toMatch(/other sites/);
    expect(ask({ ...link, 'sec-fetch-dest': 'iframe' }, 'GET', '/dockets/3')).toMatch(/other sites/);
  });

  it.each([
    ['a page whose name leads here', { host: 'evil.example:4780' }],
    [
      'the same with the headers of its own',
      { host: 'evil.example', origin: 'http://evil.example', 'sec-fetch-site': 'same-origin' }
    ],
    ['a name that begins like ours', { host: '127.0.0.1.evil.example' }],
    ['no name', { host: '' }],
    ['a page elsewhere that reads', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'cors' }],
    ['a picture in a page elsewhere', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': 'image' }],
    ['another port of this machine', { 'sec-fetch-site': 'same-site', origin: 'http://127.0.0.1:9999' }],
    ['a page without an origin', { origin: 'null' }],
    ['an old browser that tells the origin alone', { origin: 'http://evil.example' }]
  ])('refuses %s, reading and writing', (_who, headers) => {
    expect(ask(headers)).toMatch(/other sites|not known as/);
    expect(ask(headers, 'POST')).toMatch(/other sites|not known as/);
  });

  it('knows further names where a shop gives them', () => {
    expect(refusal('GET', '/', new Headers({ host: 'press.lan:4780' }), ['press.lan'])).toBeUndefined();
  });
});
