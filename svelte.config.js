import adapter from '@sveltejs/adapter-node';

/** @type {import('@sveltejs/kit').Config} */
export default {
  kit: {
    adapter: adapter({ precompress: false }),
    alias: { $core: 'core', $standins: 'standins', $protocol: 'protocol' }
  }
};
