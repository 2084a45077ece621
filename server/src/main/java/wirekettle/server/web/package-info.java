/** What every resource shares: problems, pages, serving the front end. */
package wirekettle.server.web;
