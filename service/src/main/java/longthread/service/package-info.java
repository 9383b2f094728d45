/**
 * The service: intake, catalog and answers over HTTP, on PostgreSQL.
 *
 * <p>One package per capability, each with its controller (HTTP only), its service (the work) and
 * its records (the answers): {@code impact}, {@code cause}, {@code lineage}, {@code catalog},
 * {@code runs}, {@code job}, {@code sql}. Below them {@code intake}, {@code access}, {@code
 * rebuild}, {@code apply}, {@code live}, {@code log} and {@code storage}; dependencies run
 * downwards in this order, without cycles. {@code web} depends on none of them and may be used by
 * all.
 */
@NullMarked
package longthread.service;

import org.jspecify.annotations.NullMarked;
