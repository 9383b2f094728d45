package longthread.service.proof;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.PrivateKey;
import java.security.PublicKey;
import java.security.Signature;
import java.security.spec.PKCS8EncodedKeySpec;
import java.security.spec.X509EncodedKeySpec;
import java.util.Base64;
import longthread.service.storage.preview.PreviewQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * The key that this installation signs proofs with: made at the first proof, kept in the database.
 */
@Component
class ProofKeys {
  static final String ALGORITHM = "Ed25519";
  private static final String SECRET = "proof-key";

  private final PreviewQueries stored;
  private @Nullable KeyPair known;

  ProofKeys(PreviewQueries stored) {
    this.stored = stored;
  }

  /** The public key, as base64 of its X.509 form. */
  String publicKey() {
    return Base64.getEncoder().encodeToString(keys().getPublic().getEncoded());
  }

  /** The signature of a text, as base64. */
  String sign(String text) {
    try {
      Signature signature = Signature.getInstance(ALGORITHM);
      signature.initSign(keys().getPrivate());
      signature.update(text.getBytes(StandardCharsets.UTF_8));
      return Base64.getEncoder().encodeToString(signature.sign());
    } catch (GeneralSecurityException e) {
      throw new IllegalStateException("the platform lacks " + ALGORITHM, e);
    }
  }

  /** Whether a signature of a text was made with the private half of a key. */
  static boolean isSigned(String text, String signature, String publicKey) {
    try {
      Signature check = Signature.getInstance(ALGORITHM);
      check.initVerify(publicKey(Base64.getDecoder().decode(publicKey)));
      check.update(text.getBytes(StandardCharsets.UTF_8));
      return check.verify(Base64.getDecoder().decode(signature));
    } catch (GeneralSecurityException | IllegalArgumentException e) {
      return false; // no key or no signature at all
    }
  }

  private synchronized KeyPair keys() {
    if (known == null) {
      // Several replicas may make one at a time: the first that is stored counts for all.
      KeyPair fresh = generated();
      stored.addSecret(SECRET, packed(fresh));
      known = unpacked(stored.secret(SECRET).orElseThrow());
    }
    return known;
  }

  private static KeyPair generated() {
    try {
      return KeyPairGenerator.getInstance(ALGORITHM).generateKeyPair();
    } catch (GeneralSecurityException e) {
      throw new IllegalStateException("the platform lacks " + ALGORITHM, e);
    }
  }

  /** The private key's length in one byte, the private key, the public key. */
  private static byte[] packed(KeyPair keys) {
    byte[] secret = keys.getPrivate().getEncoded();
    byte[] open = keys.getPublic().getEncoded();
    byte[] both = new byte[1 + secret.length + open.length];
    both[0] = (byte) secret.length;
    System.arraycopy(secret, 0, both, 1, secret.length);
    System.arraycopy(open, 0, both, 1 + secret.length, open.length);
    return both;
  }

  private static KeyPair unpacked(byte[] both) {
    try {
      int length = both[0] & 0xFF;
      PrivateKey secret =
          KeyFactory.getInstance(ALGORITHM)
              .generatePrivate(
                  new PKCS8EncodedKeySpec(java.util.Arrays.copyOfRange(both, 1, 1 + length)));
      return new KeyPair(
          publicKey(java.util.Arrays.copyOfRange(both, 1 + length, both.length)), secret);
    } catch (GeneralSecurityException e) {
      throw new IllegalStateException("the stored key for proofs cannot be read", e);
    }
  }

  private static PublicKey publicKey(byte[] encoded) throws GeneralSecurityException {
    return KeyFactory.getInstance(ALGORITHM).generatePublic(new X509EncodedKeySpec(encoded));
  }
}
