/** Datasets: uploading, looking, keeping. */
package wirekettle.server.datasets;
