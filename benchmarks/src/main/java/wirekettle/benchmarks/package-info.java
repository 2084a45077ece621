/** Each program prints a ratio against a yardstick measured in the same run; exit 0 where it holds, 1 where not. */
package wirekettle.benchmarks;
