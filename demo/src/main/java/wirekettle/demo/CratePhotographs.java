package wirekettle.demo;

import java.awt.Color;
import java.awt.Graphics2D;
import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Random;
import javax.imageio.ImageIO;

/** Pictures of crates, drawn: each the same whenever it is asked for. */
public final class CratePhotographs {
    private CratePhotographs() {}

    /** Returns the pictures of the first crates of the demo's loans by file name. */
    public static Map<String, byte[]> all() throws IOException {
        Map<String, byte[]> files = new LinkedHashMap<>();
        for (int loan = 20481; loan < 20485; loan++) {
            for (int crate = 1; crate <= 3; crate++) {
                files.put("HC-" + loan + "-" + crate + ".png", picture(loan * 10 + crate));
            }
        }
        return files;
    }

    private static byte[] picture(int seed) throws IOException {
        Random random = new Random(seed);
        BufferedImage image = new BufferedImage(320, 240, BufferedImage.TYPE_INT_RGB);
        Graphics2D pen = image.createGraphics();
        pen.setColor(new Color(214, 218, 222));
        pen.fillRect(0, 0, 320, 240);
        pen.setColor(new Color(158, 162, 166));
        pen.fillRect(0, 190, 320, 50);
        int planks = 4 + random.nextInt(4);
        int high = 120 / planks;
        for (int i = 0; i < planks; i++) {
            pen.setColor(new Color(168 + random.nextInt(30), 124 + random.nextInt(24), 74 + random.nextInt(20)));
            pen.fillRect(60, 80 + i * high, 200, high - 2);
            pen.setColor(new Color(120, 88, 52));
            for (int grain = 0; grain < 12; grain++) {
                int x = 60 + random.nextInt(170);
                int y = 82 + i * high + random.nextInt(high - 4);
                pen.drawLine(x, y, x + 10 + random.nextInt(20), y);
            }
        }
        pen.setColor(new Color(96, 70, 42));
        pen.fillRect(60, 80, 10, 120);
        pen.fillRect(250, 80, 10, 120);
        pen.dispose();
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ImageIO.write(image, "png", out);
        return out.toByteArray();
    }
}
