package wirekettle.core.assist;

import java.util.Arrays;

/** The assignment of rows to columns with the greatest total gain (the Hungarian method, O(n³)). */
final class Assignment {
    private Assignment() {}

    /** Returns for each row its column, -1 for none; gains are zero or more. */
    static int[] best(double[][] gain, int columns) {
        int rows = gain.length;
        int[] chosen = new int[rows];
        Arrays.fill(chosen, -1);
        if (rows == 0 || columns == 0) {
            return chosen;
        }
        int n = Math.max(rows, columns);
        double[] u = new double[n + 1];
        double[] v = new double[n + 1];
        int[] rowOf = new int[n + 1];
        int[] way = new int[n + 1];
        for (int i = 1; i <= n; i++) {
            rowOf[0] = i;
            int column = 0;
            double[] least = new double[n + 1];
            Arrays.fill(least, Double.POSITIVE_INFINITY);
            boolean[] used = new boolean[n + 1];
            do {
                used[column] = true;
                int row = rowOf[column];
                int next = 0;
                double delta = Double.POSITIVE_INFINITY;
                for (int j = 1; j <= n; j++) {
                    if (!used[j]) {
                        double gained = row <= rows && j <= columns ? gain[row - 1][j - 1] : 0;
                        double cost = -gained - u[row] - v[j];
                        if (cost < least[j]) {
                            least[j] = cost;
                            way[j] = column;
                        }
                        if (least[j] < delta) {
                            delta = least[j];
                            next = j;
                        }
                    }
                }
                for (int j = 0; j <= n; j++) {
                    if (used[j]) {
                        u[rowOf[j]] += delta;
                        v[j] -= delta;
                    } else {
                        least[j] -= delta;
                    }
                }
                column = next;
            } while (rowOf[column] != 0);
            do {
                int before = way[column];
                rowOf[column] = rowOf[before];
                column = before;
            } while (column != 0);
        }
        for (int j = 1; j <= columns; j++) {
            if (rowOf[j] >= 1 && rowOf[j] <= rows) {
                chosen[rowOf[j] - 1] = j - 1;
            }
        }
        return chosen;
    }
}
