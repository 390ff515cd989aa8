"""What we ask of Vendure, operation by operation."""

from __future__ import annotations

_ADDRESS = "{ fullName company streetLine1 streetLine2 city province postalCode countryCode phoneNumber }"

ORDER_PARTS = f"""
fragment OrderParts on Order {{
  id code state active createdAt updatedAt orderPlacedAt currencyCode couponCodes total totalWithTax
  customer {{ id emailAddress firstName lastName phoneNumber user {{ id }} groups {{ name }} }}
  billingAddress {_ADDRESS}
  shippingAddress {_ADDRESS}
  lines {{
    id quantity orderPlacedQuantity unitPrice unitPriceWithTax linePrice linePriceWithTax
    proratedLinePrice proratedLinePriceWithTax proratedUnitPrice proratedUnitPriceWithTax
    taxLines {{ description taxRate }} productVariant {{ id sku name productId }}
  }}
  surcharges {{ id description sku price priceWithTax taxLines {{ description taxRate }} }}
  shippingLines {{ id price priceWithTax discountedPrice discountedPriceWithTax shippingMethod {{ code name }} }}
  taxSummary {{ taxRate }}
  payments {{
    id createdAt updatedAt method amount state transactionId
    refunds {{ id createdAt updatedAt shipping total state transactionId reason lines {{ orderLineId quantity }} }}
  }}
  fulfillments {{ id createdAt updatedAt state method trackingCode lines {{ orderLineId quantity }} }}
  history(options: {{ take: 200, sort: {{ createdAt: DESC }} }}) {{ items {{ id type createdAt data }} }}
}}"""

ORDERS = f"""query Orders($options: OrderListOptions) {{
  orders(options: $options) {{ totalItems items {{ ...OrderParts }} }} }} {ORDER_PARTS}"""
# The least that tells whether anything happened: Vendure's own time of change does not move with most of it.
ORDER_TIMES = """query OrderTimes($options: OrderListOptions) {
  orders(options: $options) { totalItems items { id updatedAt
    history(options: { take: 1, sort: { createdAt: DESC } }) { items { createdAt } } } } }"""

CUSTOMERS = """query Customers($options: CustomerListOptions) {
  customers(options: $options) { totalItems items {
    id updatedAt firstName lastName phoneNumber emailAddress user { id } groups { name }
    addresses { fullName company streetLine1 streetLine2 city province postalCode country { code } phoneNumber
      defaultBillingAddress defaultShippingAddress } } } }"""

VARIANTS = """query Variants($options: ProductVariantListOptions) {
  productVariants(options: $options) { totalItems items {
    id sku name enabled updatedAt price priceWithTax currencyCode trackInventory productId
    taxCategory { name } product { description slug } options { name group { name } }
    stockLevels { id updatedAt stockOnHand stockAllocated stockLocationId stockLocation { name } } } } }"""

SHOP = """query Shop {
  globalSettings { serverConfig { moneyStrategyPrecision } }
  activeChannel { code defaultCurrencyCode defaultLanguageCode availableLanguageCodes pricesIncludeTax
    seller { name } }
  me { channels { code permissions } } }"""

NAMES = """query Names {
  taxRates(options: { take: 1000 }) { items { name value enabled zone { name } } }
  taxCategories(options: { take: 1000 }) { items { name } }
  shippingMethods(options: { take: 1000 }) { items { code calculator { args { name value } } } }
  paymentMethods(options: { take: 1000 }) { items { code } }
  stockLocations(options: { take: 1000 }) { items { id name } }
  customerGroups(options: { take: 1000 }) { items { name } }
  promotions(options: { take: 1000 }) { items { couponCode } }
  globalSettings { serverConfig { orderProcess { name } } } }"""

PLACES = """query Places { stockLocations(options: { take: 1000 }) { items { id name } } }"""
NOTES = """query Notes($id: ID!) { order(id: $id) { id
  history(options: { take: 1000, filter: { type: { eq: "ORDER_NOTE" } } }) { items { data } } } }"""
ADD_NOTE = """mutation AddNote($input: AddNoteToOrderInput!) { addNoteToOrder(input: $input) { id } }"""
ADD_FULFILMENT = """mutation AddFulfilment($input: FulfillOrderInput!) { addFulfillmentToOrder(input: $input) {
  ... on Fulfillment { id } ... on ErrorResult { errorCode message } } }"""
SHIP = """mutation Ship($id: ID!) { transitionFulfillmentToState(id: $id, state: "Shipped") {
  ... on Fulfillment { id } ... on ErrorResult { errorCode message } } }"""
SET_STOCK = """mutation SetStock($input: [UpdateProductVariantInput!]!) {
  updateProductVariants(input: $input) { id } }"""
