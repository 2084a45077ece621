package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.util.Arrays;
import java.util.Base64;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.KeyUnreadable;

/** Keys in the forms people have them in. */
public class KeyMaterialTest {
    private static final String PASSWORD = "for the file";

    private byte[] rsa;
    private byte[] ec;
    private KeyMaterial fromRsa;

    private static byte[] made(String algorithm) throws Exception {
        Path file = Files.createTempDirectory("keys").resolve("key.p12");
        Process tool = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/keytool",
                        "-genkeypair",
                        "-alias",
                        "a",
                        "-keyalg",
                        algorithm,
                        "-dname",
                        "CN=Halewick Crating",
                        "-storetype",
                        "PKCS12",
                        "-keystore",
                        file.toString(),
                        "-storepass",
                        PASSWORD)
                .redirectErrorStream(true)
                .start();
        assertEquals(tool.waitFor(), 0, new String(tool.getInputStream().readAllBytes()));
        return Files.readAllBytes(file);
    }

    @BeforeClass
    public void make() throws Exception {
        rsa = made("RSA");
        ec = made("EC");
        fromRsa = KeyMaterial.read(rsa, PASSWORD);
    }

    private static String pem(String label, byte[] der) {
        return "-----BEGIN " + label + "-----\n" + Base64.getMimeEncoder().encodeToString(der) + "\n-----END " + label
                + "-----\n";
    }

    private String certificate() throws Exception {
        return pem("CERTIFICATE", fromRsa.certificate().getEncoded());
    }

    private static byte[] encrypted(String name) throws Exception {
        try (var in = KeyMaterialTest.class.getResourceAsStream("/keys/" + name)) {
            return in.readAllBytes();
        }
    }

    @Test
    public void pkcs12AndEveryPemFormGiveTheSameKey() throws Exception {
        byte[] pkcs8 = fromRsa.key().getEncoded();
        // the RSA key inside PKCS#8 stands behind 26 bytes of frame (RFC 5208)
        String pkcs1 = pem("RSA PRIVATE KEY", Arrays.copyOfRange(pkcs8, 26, pkcs8.length));
        for (String text : new String[] {pem("PRIVATE KEY", pkcs8), pkcs1}) {
            KeyMaterial read = KeyMaterial.read((certificate() + text).getBytes(), PASSWORD);
            assertEquals(read.key(), fromRsa.key());
            assertEquals(read.certificate(), fromRsa.certificate());
        }
        assertEquals(KeyMaterial.ofPem(fromRsa.pem()).key(), fromRsa.key());
        assertEquals(
                KeyMaterial.read(encrypted("encrypted.pem"), PASSWORD).key().getAlgorithm(), "RSA");
        assertEquals(KeyMaterial.read(ec, PASSWORD).key().getAlgorithm(), "EC");
        assertTrue(!fromRsa.toString().contains("PRIVATE"), "a key does not tell itself");
    }

    @DataProvider
    public Object[][] unusable() throws Exception {
        KeyStore only = KeyStore.getInstance("PKCS12");
        only.load(null, null);
        only.setCertificateEntry("c", fromRsa.certificate());
        var store = new java.io.ByteArrayOutputStream();
        only.store(store, PASSWORD.toCharArray());
        PrivateKey other = KeyMaterial.read(ec, PASSWORD).key();
        String key = pem("PRIVATE KEY", fromRsa.key().getEncoded());
        return new Object[][] {
            {rsa, "wrong", "the password does not open this PKCS#12 file"},
            {"junk".getBytes(), "", "neither PEM text nor a PKCS#12 file"},
            {store.toByteArray(), PASSWORD, "no private key with a certificate"},
            {certificate().getBytes(), "", "no private key in it"},
            {key.getBytes(), "", "no certificate in it"},
            {(pem("PRIVATE KEY", other.getEncoded()) + certificate()).getBytes(), "", "none of its certificates belongs"
            },
            {(pem("EC PRIVATE KEY", new byte[] {1}) + certificate()).getBytes(), "", "the old form EC PRIVATE KEY"},
            {encrypted("encrypted.pem"), "", "give the password"},
            {encrypted("encrypted.pem"), "wrong", "the password does not open its private key"},
            {encrypted("triple-des.pem"), PASSWORD, "a cipher that is not read here"},
            {(pem("PRIVATE KEY", new byte[] {1, 2}) + certificate()).getBytes(), "", "neither RSA nor EC"},
            {(key + pem("CERTIFICATE", new byte[] {1, 2})).getBytes(), "", "cannot be read"},
        };
    }

    @Test(dataProvider = "unusable")
    public void whatCannotBeUsedSaysWhy(byte[] file, String password, String why) {
        KeyUnreadable e = expectThrows(KeyUnreadable.class, () -> KeyMaterial.read(file, password));
        assertTrue(e.getMessage().contains(why), e.getMessage());
    }
}
