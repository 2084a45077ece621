/** Queues of brokers that speak AMQP 1.0. */
package wirekettle.connect.queue;
