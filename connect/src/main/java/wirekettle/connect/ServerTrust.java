package wirekettle.connect;

import java.net.Socket;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.Principal;
import java.security.PrivateKey;
import java.security.cert.CertificateException;
import java.security.cert.X509Certificate;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import javax.net.ssl.KeyManager;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.TrustManager;
import javax.net.ssl.TrustManagerFactory;
import javax.net.ssl.X509ExtendedKeyManager;
import javax.net.ssl.X509ExtendedTrustManager;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.KeyUnreadable;

/**
 * Trusts what the machine trusts, and beyond that authorities of one's own and servers whose certificate has a given
 * fingerprint; remembers the certificate it refused last, so that it can be shown.
 */
public final class ServerTrust extends X509ExtendedTrustManager {
    private final List<X509ExtendedTrustManager> authorities = new ArrayList<>();
    private final Set<String> fingerprints;
    private final boolean anyHostName;
    private volatile X509Certificate refused;
    private volatile boolean askedForClient;
    private volatile String reason;

    ServerTrust(Set<String> fingerprints, List<X509Certificate> own, boolean anyHostName) {
        this.fingerprints = fingerprints;
        this.anyHostName = anyHostName;
        try {
            authorities.add(Machine.TRUST);
            if (!own.isEmpty()) {
                KeyStore store = KeyStore.getInstance(KeyStore.getDefaultType());
                store.load(null, null);
                for (int i = 0; i < own.size(); i++) {
                    store.setCertificateEntry("own-" + i, own.get(i));
                }
                authorities.add(manager(store));
            }
        } catch (GeneralSecurityException | java.io.IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the trust an endpoint's settings ask for; throws {@link IllegalArgumentException} for unreadable PEM. */
    public static ServerTrust of(EndpointReach reach) {
        var tls = reach.settings().tls();
        try {
            return new ServerTrust(
                    Set.copyOf(tls.fingerprints()), Certificates.ofPems(tls.trusted()), tls.anyHostName());
        } catch (KeyUnreadable e) {
            throw new IllegalArgumentException("a trusted certificate: " + e.getMessage(), e);
        }
    }

    /** Read once: it is large and does not change while we run. */
    private static final class Machine {
        static final X509ExtendedTrustManager TRUST = trust();

        private static X509ExtendedTrustManager trust() {
            try {
                return manager(null);
            } catch (GeneralSecurityException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    private static X509ExtendedTrustManager manager(KeyStore store) throws GeneralSecurityException {
        TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        factory.init(store);
        for (TrustManager manager : factory.getTrustManagers()) {
            if (manager instanceof X509ExtendedTrustManager extended) {
                return extended;
            }
        }
        throw new IllegalStateException("this Java has no X.509 trust manager");
    }

    /** Returns TLS by this trust. */
    public SSLContext context(KeyMaterial key) {
        try {
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(new KeyManager[] {new ClientKey(key)}, new TrustManager[] {this}, null);
            return context;
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("no TLS with this client key: " + e.getMessage(), e);
        }
    }

    /** Tells whether a server asked for the caller's certificate so far. */
    boolean askedForClient() {
        return askedForClient;
    }

    /** Shows the one key there is, or none, and takes note that it was asked for. */
    private final class ClientKey extends X509ExtendedKeyManager {
        private final KeyMaterial key;

        ClientKey(KeyMaterial key) {
            this.key = key;
        }

        private String chosen() {
            askedForClient = true;
            return key == null ? null : "client";
        }

        @Override
        public String chooseEngineClientAlias(String[] types, Principal[] issuers, SSLEngine engine) {
            return chosen();
        }

        @Override
        public String chooseClientAlias(String[] types, Principal[] issuers, Socket socket) {
            return chosen();
        }

        @Override
        public X509Certificate[] getCertificateChain(String alias) {
            return key == null ? null : key.chain().toArray(X509Certificate[]::new);
        }

        @Override
        public PrivateKey getPrivateKey(String alias) {
            return key == null ? null : key.key();
        }

        @Override
        public String[] getClientAliases(String type, Principal[] issuers) {
            return key == null ? null : new String[] {"client"};
        }

        @Override
        public String[] getServerAliases(String type, Principal[] issuers) {
            return null;
        }

        @Override
        public String chooseServerAlias(String type, Principal[] issuers, Socket socket) {
            return null;
        }
    }

    /** Returns the last refusal as a problem of a host; null when there was none. */
    public CertificateUnknown refused(String host) {
        X509Certificate certificate = refused;
        return certificate == null ? null : new CertificateUnknown(host, certificate, reason);
    }

    private interface Check {
        void by(X509ExtendedTrustManager authority) throws CertificateException;
    }

    private void server(X509Certificate[] chain, Check check) throws CertificateException {
        if (fingerprints.contains(Certificates.fingerprint(chain[0]))) {
            return;
        }
        CertificateException last = null;
        for (X509ExtendedTrustManager authority : authorities) {
            try {
                check.by(authority);
                return;
            } catch (CertificateException e) {
                // another name is told by the authority that knows the certificate: the more telling reason stays
                last = last != null && CertificateUnknown.otherName(last) ? last : e;
            }
        }
        refused = chain[0];
        reason = CertificateUnknown.reason(chain[0], last);
        throw last;
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        server(chain, authority -> {
            if (anyHostName) {
                authority.checkServerTrusted(chain, type);
            } else {
                authority.checkServerTrusted(chain, type, engine);
            }
        });
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        server(chain, authority -> {
            if (anyHostName) {
                authority.checkServerTrusted(chain, type);
            } else {
                authority.checkServerTrusted(chain, type, socket);
            }
        });
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type) throws CertificateException {
        server(chain, authority -> authority.checkServerTrusted(chain, type));
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        authorities.get(0).checkClientTrusted(chain, type, engine);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        authorities.get(0).checkClientTrusted(chain, type, socket);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
        authorities.get(0).checkClientTrusted(chain, type);
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        List<X509Certificate> all = new ArrayList<>();
        authorities.forEach(authority -> all.addAll(List.of(authority.getAcceptedIssuers())));
        return all.toArray(X509Certificate[]::new);
    }
}
