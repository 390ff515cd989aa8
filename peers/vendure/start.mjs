// Starts the storefront that stands at the sales side in `./inkwell demo --peers` and in the peers' tests.
//
// This file imports @vendure/core, which is licensed under the GPL, version 3 or later; so is this file.
// SPDX-License-Identifier: GPL-3.0-or-later
// Nothing of it is part of Inkwell Bridge, which speaks to the storefront over HTTP alone.
import { readFileSync } from "node:fs";
import { AddressBasedTaxZoneStrategy, bootstrap, DefaultLogger, dummyPaymentHandler, LogLevel } from "@vendure/core";

// Database, port and passwords stand in a file that only their owner can read, not in the environment.
const settings = JSON.parse(readFileSync(process.argv[2], "utf-8"));

await bootstrap({
  apiOptions: {
    hostname: "127.0.0.1",
    port: settings.port,
    adminApiPath: "admin-api",
    shopApiPath: "shop-api",
    adminListQueryLimit: 1000,
  },
  authOptions: {
    tokenMethod: ["bearer"],
    superadminCredentials: { identifier: settings.user, password: settings.password },
    requireVerification: false,
  },
  dbConnectionOptions: { type: "postgres", url: settings.database, synchronize: settings.synchronise, logging: false },
  // What is sent abroad is taxed as an export.
  taxOptions: { taxZoneStrategy: new AddressBasedTaxZoneStrategy() },
  paymentOptions: { paymentMethodHandlers: [dummyPaymentHandler] },
  logger: new DefaultLogger({ level: LogLevel.Warn, timestamp: true }),
});
console.log("ready");
