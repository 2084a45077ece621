/** The simulated outside world of Halewick Crating, and what fills a fresh server with its data. */
package wirekettle.demo;
