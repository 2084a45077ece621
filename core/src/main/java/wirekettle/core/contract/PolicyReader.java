package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.DocumentGatherer.Definitions;
import wirekettle.core.contract.WsdlIndex.Placed;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Turns WS-Policy, WS-Addressing and MTOM markers into advice; assertions are known by their local names. */
final class PolicyReader {
    private final WsdlIndex index;
    private final Map<String, Placed> policies = new HashMap<>();

    PolicyReader(List<Definitions> definitions, WsdlIndex index) {
        this.index = index;
        for (Definitions each : definitions) {
            collect(new Placed(each.root(), each.document()));
        }
    }

    private void collect(Placed at) {
        for (XmlElement child : at.node().children()) {
            if (isPolicy(child, "Policy")) {
                String id = id(child);
                if (id != null) {
                    policies.putIfAbsent(id, at.at(child));
                }
            } else if (child.name().namespace().equals(WsdlIndex.WSDL)
                    && !child.local().equals("types")) {
                collect(at.at(child));
            }
        }
    }

    private static boolean isPolicy(XmlElement node, String local) {
        return node.local().equals(local) && node.name().namespace().contains("policy");
    }

    private static String id(XmlElement policy) {
        for (int i = 0; i < policy.attributeCount(); i++) {
            String local = policy.attributeName(i).local();
            if (local.equals("Id") || local.equals("id") || local.equals("Name")) {
                return policy.attributeValue(i);
            }
        }
        return null;
    }

    /** Returns what a port wants, from itself, its binding and its port type with their operations. */
    List<Advice> advice(List<Placed> subjects) {
        Map<String, Placed> seen = new HashMap<>();
        Set<XmlElement> open = new LinkedHashSet<>();
        for (Placed subject : subjects) {
            if (subject != null) {
                subject(subject, seen, open);
            }
        }
        return sentences(seen);
    }

    private void subject(Placed at, Map<String, Placed> seen, Set<XmlElement> open) {
        for (int i = 0; i < at.node().attributeCount(); i++) {
            if (at.node().attributeName(i).local().equals("PolicyURIs")) {
                for (String uri : at.node().attributeValue(i).strip().split("\\s+")) {
                    reference(at, uri, seen, open);
                }
            }
        }
        for (XmlElement child : at.node().children()) {
            if (isPolicy(child, "Policy") || isPolicy(child, "PolicyReference")) {
                assertions(at.at(child), seen, open);
            } else if (child.local().equals("UsingAddressing")) {
                seen.putIfAbsent("Addressing", at.at(child));
            } else if (child.name().namespace().equals(WsdlIndex.WSDL)) {
                subject(at.at(child), seen, open);
            }
        }
    }

    private void reference(Placed from, String uri, Map<String, Placed> seen, Set<XmlElement> open) {
        Placed policy = policies.get(uri.substring(uri.indexOf('#') + 1));
        if (policy == null) {
            index.note(
                    from,
                    Severity.WARNING,
                    "policy-missing",
                    "the policy " + uri + " is referred to but not in any document; what it asks for is not known");
        } else {
            assertions(policy, seen, open);
        }
    }

    private void assertions(Placed at, Map<String, Placed> seen, Set<XmlElement> open) {
        if (!open.add(at.node())) {
            return;
        }
        String uri = isPolicy(at.node(), "PolicyReference") ? at.node().attribute("URI") : null;
        if (uri != null) {
            reference(at, uri, seen, open);
        }
        for (XmlElement child : at.node().children()) {
            seen.putIfAbsent(child.local(), at.at(child));
            assertions(at.at(child), seen, open);
        }
    }

    private static List<Advice> sentences(Map<String, Placed> seen) {
        List<Advice> advice = new ArrayList<>();
        boolean tls = seen.containsKey("TransportBinding") || seen.containsKey("HttpsToken");
        String over = tls ? " over TLS" : "";
        Set<String> said = new LinkedHashSet<>();
        if (add(advice, seen, "UsernameToken", "username-token", "wants a UsernameToken" + over)) {
            said.add("tls");
        }
        add(advice, seen, "HashPassword", "password-digest", "wants the password as a digest");
        add(advice, seen, "RequireClientCertificate", "client-certificate", "wants a client certificate");
        if (tls && said.isEmpty()) {
            boolean token = seen.containsKey("HttpsToken");
            add(advice, seen, token ? "HttpsToken" : "TransportBinding", "tls", "wants to be called over TLS");
        }
        add(advice, seen, "IncludeTimestamp", "timestamp", "wants a Timestamp in the security header");
        if (seen.containsKey("X509Token") || seen.containsKey("SignedParts") || seen.containsKey("AsymmetricBinding")) {
            String first = seen.containsKey("SignedParts")
                    ? "SignedParts"
                    : seen.containsKey("X509Token") ? "X509Token" : "AsymmetricBinding";
            add(advice, seen, first, "signature", "wants the message signed with an X.509 certificate");
        }
        add(
                advice,
                seen,
                "EncryptedParts",
                "encryption",
                "wants parts of the message encrypted, which is not supported");
        add(advice, seen, "SamlToken", "saml", "wants a SAML token, which is not supported");
        add(
                advice,
                seen,
                "IssuedToken",
                "issued-token",
                "wants a token issued by another service, which is not supported");
        add(advice, seen, "Addressing", "addressing", "wants WS-Addressing headers");
        add(advice, seen, "OptimizedMimeSerialization", "mtom", "wants binary content as MTOM, and sends it so");
        return advice;
    }

    private static boolean inPolicy(XmlElement node) {
        XmlElement parent = node.parent();
        return parent != null && (isPolicy(parent, "Policy") || inPolicy(parent));
    }

    private static boolean add(
            List<Advice> advice, Map<String, Placed> seen, String assertion, String code, String sentence) {
        Placed at = seen.get(assertion);
        if (at == null) {
            return false;
        }
        // WSDL extensions are optional unless they say otherwise (WSDL 1.1, 2.1.3), assertions of a policy are not
        // (WS-Policy 1.5 Framework, 4.3.1)
        boolean optional = at.node().local().equals("UsingAddressing")
                && !inPolicy(at.node())
                && !"true".equals(at.node().attribute(WsdlIndex.WSDL, "required"));
        for (int i = 0; i < at.node().attributeCount(); i++) {
            optional |= at.node().attributeName(i).local().equals("Optional")
                    && at.node().attributeValue(i).strip().matches("true|1");
        }
        String said = optional ? sentence.replaceFirst("^wants", "would like") + " (optional)" : sentence;
        advice.add(new Advice(code, said, at.document(), at.node().line()));
        return true;
    }
}
