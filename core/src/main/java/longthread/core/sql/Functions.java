package longthread.core.sql;

import java.util.HashSet;
import java.util.Locale;
import java.util.Set;

/**
 * What the functions of the common databases do to a value. A function that is not listed computes
 * its result from all its arguments.
 */
public final class Functions {
  /** Functions behind which a value cannot be read back. */
  public static final Set<String> MASKING =
      Set.of(
          "md5",
          "md5_hex",
          "md5_number",
          "sha",
          "sha1",
          "sha1_hex",
          "sha2",
          "sha2_hex",
          "sha224",
          "sha256",
          "sha384",
          "sha512",
          "hash",
          "hashbytes",
          "digest",
          "hmac",
          "crypt",
          "checksum",
          "binary_checksum",
          "crc32",
          "xxhash64",
          "murmur_hash3_32",
          "murmurhash3",
          "fnv_hash",
          "farm_fingerprint",
          "standard_hash",
          "ora_hash",
          "hashtext",
          "mask",
          "mask_hash",
          "mask_first_n",
          "mask_last_n",
          "mask_show_first_n",
          "mask_show_last_n",
          "pseudonymize",
          "anonymize",
          "tokenize",
          "redact",
          "encrypt",
          "aes_encrypt",
          "pgp_sym_encrypt");

  private static final Set<String> AGGREGATES =
      Set.of(
          "sum",
          "avg",
          "min",
          "max",
          "count",
          "count_if",
          "countif",
          "count_big",
          "total",
          "any",
          "some",
          "every",
          "any_value",
          "arbitrary",
          "array_agg",
          "string_agg",
          "group_concat",
          "listagg",
          "wm_concat",
          "collect_list",
          "collect_set",
          "stddev",
          "stddev_pop",
          "stddev_samp",
          "stdev",
          "stdevp",
          "var",
          "varp",
          "variance",
          "var_pop",
          "var_samp",
          "corr",
          "covar_pop",
          "covar_samp",
          "regr_slope",
          "regr_intercept",
          "regr_r2",
          "regr_count",
          "regr_avgx",
          "regr_avgy",
          "regr_sxx",
          "regr_syy",
          "regr_sxy",
          "bool_and",
          "bool_or",
          "bit_and",
          "bit_or",
          "bit_xor",
          "booland_agg",
          "boolor_agg",
          "logical_and",
          "logical_or",
          "json_agg",
          "jsonb_agg",
          "json_object_agg",
          "jsonb_object_agg",
          "json_arrayagg",
          "json_objectagg",
          "object_agg",
          "map_agg",
          "xmlagg",
          "range_agg",
          "median",
          "mode",
          "percentile_cont",
          "percentile_disc",
          "percentile",
          "percentile_approx",
          "approx_percentile",
          "approx_quantiles",
          "quantile",
          "quantiles",
          "approx_count_distinct",
          "approx_distinct",
          "hll_count",
          "uniq",
          "uniqexact",
          "max_by",
          "min_by",
          "argmax",
          "argmin",
          "arg_max",
          "arg_min",
          "product",
          "geometric_mean",
          "skewness",
          "kurtosis",
          "histogram",
          "checksum_agg",
          "first",
          "last",
          "sum_if",
          "sumif",
          "avgif");

  /** Those that yield how many rows there are, and nothing of the values. */
  private static final Set<String> COUNTS =
      Set.of(
          "count",
          "count_big",
          "approx_count_distinct",
          "approx_distinct",
          "regr_count",
          "uniq",
          "uniqexact");

  private static final Set<String> RANKS =
      Set.of("row_number", "rank", "dense_rank", "percent_rank", "cume_dist", "ntile", "rownum");

  private static final Set<String> CHOOSING = Set.of("if", "iif", "iff", "nvl2");

  private static final Set<String> EITHER = Set.of("coalesce", "nvl", "ifnull", "isnull");

  private static final Set<String> EXPANDING =
      Set.of(
          "unnest",
          "explode",
          "explode_outer",
          "posexplode",
          "posexplode_outer",
          "inline",
          "inline_outer",
          "flatten",
          "generate_series",
          "generate_subscripts",
          "json_each",
          "json_each_text",
          "jsonb_each",
          "jsonb_each_text",
          "json_array_elements",
          "json_array_elements_text",
          "jsonb_array_elements",
          "jsonb_array_elements_text",
          "json_object_keys",
          "jsonb_object_keys",
          "regexp_split_to_table",
          "string_to_table",
          "regexp_matches",
          "stack",
          "split_to_table",
          "string_split",
          "openjson");

  private final Set<String> masking;

  /**
   * @param masking names of functions, in any case, added to {@link #MASKING}
   */
  public Functions(Set<String> masking) {
    this.masking = new HashSet<>(MASKING);
    masking.forEach(name -> this.masking.add(name.toLowerCase(Locale.ROOT)));
  }

  boolean masks(String name) {
    return masking.contains(name);
  }

  static boolean aggregates(String name) {
    return AGGREGATES.contains(name);
  }

  static boolean counts(String name) {
    return COUNTS.contains(name);
  }

  static boolean ranks(String name) {
    return RANKS.contains(name);
  }

  /** Whether the first argument chooses between the others. */
  static boolean chooses(String name) {
    return CHOOSING.contains(name);
  }

  /** Whether it yields one of its arguments, so that a constant among them is a branch. */
  static boolean yieldsEither(String name) {
    return EITHER.contains(name);
  }

  /** Whether it yields several rows for one. */
  static boolean expands(String name) {
    return EXPANDING.contains(name);
  }
}
