package wirekettle.core.expression;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.zip.GZIPInputStream;
import java.util.zip.GZIPOutputStream;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import javax.xml.crypto.Data;
import javax.xml.crypto.OctetStreamData;
import javax.xml.crypto.dsig.CanonicalizationMethod;
import javax.xml.crypto.dsig.TransformException;
import javax.xml.crypto.dsig.TransformService;
import javax.xml.crypto.dsig.spec.TransformParameterSpec;
import net.sf.saxon.s9api.ExtensionFunction;
import net.sf.saxon.s9api.ItemType;
import net.sf.saxon.s9api.OccurrenceIndicator;
import net.sf.saxon.s9api.Processor;
import net.sf.saxon.s9api.QName;
import net.sf.saxon.s9api.SaxonApiException;
import net.sf.saxon.s9api.SequenceType;
import net.sf.saxon.s9api.XdmAtomicValue;
import net.sf.saxon.s9api.XdmItem;
import net.sf.saxon.s9api.XdmValue;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.NodeWriter;

/**
 * Functions XPath does not have: hashes (FIPS 180-4), HMAC (RFC 2104) with a secret by name, base64 (RFC 4648, 4), hex,
 * gzip (RFC 1952) and the canonical text of an element (Exclusive XML Canonicalization 1.0), with the prefixes that
 * messages are written with. Text counts as UTF-8.
 */
final class WireFunctions {
    /** The namespace; expressions know it as {@code wire}. */
    static final String NAMESPACE = "urn:wire-kettle:functions";

    /** The largest text that is unpacked, in bytes. */
    private static final int MOST_UNPACKED = 16 << 20;

    private static final Map<String, String> HASHES =
            Map.of("SHA-224", "HmacSHA224", "SHA-256", "HmacSHA256", "SHA-384", "HmacSHA384", "SHA-512", "HmacSHA512");
    private static final ThreadLocal<Scope> SCOPE = new ThreadLocal<>();

    private WireFunctions() {}

    private interface Work {
        String of(String[] texts, XdmItem first) throws Exception;
    }

    /** Lets the functions of this thread's evaluation ask a scope; returns the one before, to be set again. */
    static Scope within(Scope scope) {
        Scope before = SCOPE.get();
        SCOPE.set(scope);
        return before;
    }

    static void register(Processor processor) {
        add(processor, "hash", 2, (t, first) -> HexFormat.of().formatHex(hash(t[0], t[1])));
        add(processor, "hmac", 3, (t, first) -> HexFormat.of().formatHex(hmac(t[0], t[1], t[2])));
        add(processor, "base64", 1, (t, first) -> Base64.getEncoder().encodeToString(utf8(t[0])));
        add(processor, "from-base64", 1, (t, first) -> text(decoded(t[0])));
        add(processor, "hex", 1, (t, first) -> HexFormat.of().formatHex(utf8(t[0])));
        add(processor, "from-hex", 1, (t, first) -> text(HexFormat.of().parseHex(t[0].strip())));
        add(processor, "hex-to-base64", 1, (t, first) -> Base64.getEncoder()
                .encodeToString(HexFormat.of().parseHex(t[0].strip())));
        add(processor, "base64-to-hex", 1, (t, first) -> HexFormat.of().formatHex(decoded(t[0])));
        add(processor, "gzip", 1, (t, first) -> Base64.getEncoder().encodeToString(packed(utf8(t[0]))));
        add(processor, "gunzip", 1, (t, first) -> text(unpacked(decoded(t[0]))));
        add(processor, "canonical", 1, (t, first) -> canonical(first));
    }

    private static void add(Processor processor, String name, int arguments, Work work) {
        SequenceType item = SequenceType.makeSequenceType(ItemType.ANY_ITEM, OccurrenceIndicator.ZERO_OR_MORE);
        SequenceType[] types = new SequenceType[arguments];
        java.util.Arrays.fill(types, item);
        processor.registerExtensionFunction(new ExtensionFunction() {
            @Override
            public QName getName() {
                return new QName(NAMESPACE, name);
            }

            @Override
            public SequenceType getResultType() {
                return SequenceType.makeSequenceType(ItemType.STRING, OccurrenceIndicator.ONE);
            }

            @Override
            public SequenceType[] getArgumentTypes() {
                return types;
            }

            @Override
            public XdmValue call(XdmValue[] given) throws SaxonApiException {
                List<String> texts = new ArrayList<>();
                XdmItem first = null;
                for (XdmValue value : given) {
                    if (value.size() > 1) {
                        throw new SaxonApiException(
                                "wire:" + name + ": one value is wanted, there are " + value.size());
                    }
                    XdmItem one = value.size() == 0 ? null : value.itemAt(0);
                    first = texts.isEmpty() ? one : first;
                    texts.add(one == null ? "" : one.getStringValue());
                }
                try {
                    return new XdmAtomicValue(work.of(texts.toArray(String[]::new), first));
                } catch (Secrets.SecretMissing e) {
                    throw new SaxonApiException("wire:" + name + ": " + e.getMessage());
                } catch (IllegalArgumentException | IOException | GeneralSecurityException e) {
                    throw new SaxonApiException("wire:" + name + ": " + e.getMessage());
                } catch (Exception e) {
                    throw new SaxonApiException("wire:" + name + " failed: " + e.getMessage());
                }
            }
        });
    }

    private static byte[] utf8(String text) {
        return text.getBytes(StandardCharsets.UTF_8);
    }

    private static String text(byte[] bytes) {
        return new String(bytes, StandardCharsets.UTF_8);
    }

    private static String known(String algorithm) {
        String name = algorithm.strip().toUpperCase(Locale.ROOT);
        if (!HASHES.containsKey(name)) {
            throw new IllegalArgumentException(
                    "“" + algorithm + "” is not known: SHA-224, SHA-256, SHA-384 and SHA-512 are");
        }
        return name;
    }

    private static byte[] hash(String text, String algorithm) throws GeneralSecurityException {
        return MessageDigest.getInstance(known(algorithm)).digest(utf8(text));
    }

    private static byte[] hmac(String text, String secret, String algorithm) throws GeneralSecurityException {
        Scope scope = SCOPE.get();
        if (scope == null) {
            throw new IllegalArgumentException("a secret cannot be asked for here");
        }
        String name = HASHES.get(known(algorithm));
        Mac mac = Mac.getInstance(name);
        mac.init(new SecretKeySpec(utf8(scope.secret(secret)), name));
        return mac.doFinal(utf8(text));
    }

    private static byte[] decoded(String base64) {
        try {
            return Base64.getMimeDecoder().decode(base64);
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException("the text is no base64");
        }
    }

    private static byte[] packed(byte[] bytes) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try (GZIPOutputStream zip = new GZIPOutputStream(out)) {
            zip.write(bytes);
        }
        return out.toByteArray();
    }

    private static byte[] unpacked(byte[] bytes) throws IOException {
        try (GZIPInputStream zip = new GZIPInputStream(new ByteArrayInputStream(bytes))) {
            byte[] all = zip.readNBytes(MOST_UNPACKED + 1);
            if (all.length > MOST_UNPACKED) {
                throw new IOException("what is packed is larger than " + (MOST_UNPACKED >> 20) + " MB");
            }
            return all;
        }
    }

    private static String canonical(XdmItem item) throws Exception {
        if (item == null || !(item.getUnderlyingValue() instanceof ViewedNode seen) || seen.node() == null) {
            throw new IllegalArgumentException("there is no element: canonical text is that of an element");
        }
        byte[] xml = utf8(NodeWriter.write(seen.node(), false));
        TransformService service = TransformService.getInstance(CanonicalizationMethod.EXCLUSIVE, "DOM");
        service.init((TransformParameterSpec) null);
        Data data;
        try {
            data = service.transform(new OctetStreamData(new ByteArrayInputStream(xml)), null);
        } catch (TransformException e) {
            throw new IllegalArgumentException("the element cannot be written: " + e.getMessage());
        }
        try (var in = ((OctetStreamData) data).getOctetStream()) {
            return text(in.readAllBytes());
        }
    }
}
