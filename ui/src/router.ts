import { createRouter, createWebHistory } from 'vue-router'
import type { operations } from './api/schema'

declare module 'vue-router' {
  interface RouteMeta {
    title?: string
    hand?: boolean
    /** The operation without which there is nothing to be seen on the page. */
    needs?: keyof operations
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./stations/floor/FloorPage.vue'), meta: { title: 'Floor' } },
    {
      path: '/receive/new',
      component: () => import('./stations/receive/NewOrderPage.vue'),
      meta: { title: 'New purchase order' },
    },
    {
      path: '/receive/suggestions',
      component: () => import('./stations/receive/SuggestionsPage.vue'),
      meta: { title: 'Suggested orders' },
    },
    {
      path: '/receive/list',
      component: () => import('./stations/receive/OrderListPage.vue'),
      meta: { title: 'Purchase orders' },
    },
    {
      path: '/receive/:kind(order|arrival|inspection)?/:id?',
      component: () => import('./stations/receive/ReceivePage.vue'),
      props: true,
      meta: { title: 'Receive' },
    },
    { path: '/putaway', component: () => import('./stations/putaway/PutawayPage.vue'), meta: { title: 'Put away' } },
    {
      path: '/stock/history',
      component: () => import('./stations/stock/HistoryPage.vue'),
      meta: { title: 'History' },
    },
    {
      path: '/stock/compare',
      component: () => import('./stations/stock/ComparePage.vue'),
      meta: { title: 'Two instants' },
    },
    {
      path: '/stock/value',
      component: () => import('./stations/stock/ValuePage.vue'),
      meta: { title: 'Value', needs: 'read-value' },
    },
    {
      path: '/stock/:kind(location|item|lot|serial|carton)?/:id?',
      component: () => import('./stations/stock/StockPage.vue'),
      props: true,
      meta: { title: 'Stock' },
    },
    {
      path: '/orders/new',
      component: () => import('./stations/orders/NewOrderPage.vue'),
      meta: { title: 'New order' },
    },
    {
      path: '/orders/list',
      component: () => import('./stations/orders/OrderListPage.vue'),
      meta: { title: 'Sales orders' },
    },
    {
      path: '/orders/reservations',
      component: () => import('./stations/orders/ReservationsPage.vue'),
      meta: { title: 'Reservations' },
    },
    {
      path: '/orders/:id?',
      component: () => import('./stations/orders/OrdersPage.vue'),
      props: true,
      meta: { title: 'Orders' },
    },
    {
      path: '/pick/:id?',
      component: () => import('./stations/pick/PickPage.vue'),
      props: true,
      meta: { title: 'Pick' },
    },
    {
      path: '/pack/:id?',
      component: () => import('./stations/pack/PackPage.vue'),
      props: true,
      meta: { title: 'Pack' },
    },
    {
      path: '/dispatch/load/:id?',
      component: () => import('./stations/dispatch/LoadPage.vue'),
      props: true,
      meta: { title: 'Vehicles' },
    },
    {
      path: '/dispatch/shipments',
      component: () => import('./stations/dispatch/ShipmentListPage.vue'),
      meta: { title: 'Shipments' },
    },
    {
      path: '/dispatch/invoices/list',
      component: () => import('./stations/dispatch/InvoiceListPage.vue'),
      meta: { title: 'All invoices', needs: 'list-invoices' },
    },
    {
      path: '/dispatch/invoices/:id?',
      component: () => import('./stations/dispatch/InvoicesPage.vue'),
      props: true,
      meta: { title: 'Invoices', needs: 'list-invoices' },
    },
    {
      path: '/dispatch/:id?',
      component: () => import('./stations/dispatch/DispatchPage.vue'),
      props: true,
      meta: { title: 'Dispatch' },
    },
    {
      path: '/returns/new',
      component: () => import('./stations/returns/NewReturnPage.vue'),
      meta: { title: 'New return' },
    },
    {
      path: '/returns/without-paper',
      component: () => import('./stations/returns/UnpaperedReturnPage.vue'),
      meta: { title: 'Return without a paper' },
    },
    {
      path: '/returns/:id(\\d+)?',
      component: () => import('./stations/returns/ReturnsPage.vue'),
      props: true,
      meta: { title: 'Returns' },
    },
    {
      path: '/transfers/new',
      component: () => import('./stations/transfers/NewTransferPage.vue'),
      meta: { title: 'New transfer' },
    },
    {
      path: '/transfers/move',
      component: () => import('./stations/transfers/MovePage.vue'),
      meta: { title: 'Move within the site' },
    },
    {
      path: '/transfers/refills/:id(\\d+)?',
      component: () => import('./stations/transfers/RefillsPage.vue'),
      props: true,
      meta: { title: 'Refills' },
    },
    {
      path: '/transfers/:id(\\d+)?',
      component: () => import('./stations/transfers/TransfersPage.vue'),
      props: true,
      meta: { title: 'Transfers' },
    },
    {
      path: '/audit/count/:count(\\d+)',
      component: () => import('./stations/audit/CountPage.vue'),
      props: true,
      meta: { title: 'Count' },
    },
    {
      path: '/audit/counts',
      component: () => import('./stations/audit/CountsPage.vue'),
      meta: { title: 'Past counts' },
    },
    {
      path: '/audit/accuracy',
      component: () => import('./stations/audit/AccuracyPage.vue'),
      meta: { title: 'Accuracy' },
    },
    {
      path: '/audit/sheets/:id(\\d+)',
      component: () => import('./stations/audit/SheetPage.vue'),
      props: true,
      meta: { title: 'Count sheet' },
    },
    {
      path: '/audit/sheets/:fresh(new)?',
      component: () => import('./stations/audit/SheetsPage.vue'),
      props: true,
      meta: { title: 'Count sheets' },
    },
    {
      path: '/audit/recall/:source(lot|serial|arrival|order|recall)?/:id(\\d+)?',
      component: () => import('./stations/audit/RecallPage.vue'),
      props: true,
      meta: { title: 'Recall' },
    },
    {
      path: '/audit/classes',
      component: () => import('./stations/audit/ClassesPage.vue'),
      meta: { title: 'Classes' },
    },
    {
      path: '/audit/got/:id(\\d+)',
      component: () => import('./stations/audit/CustomerGotPage.vue'),
      props: true,
      meta: { title: 'What a customer got' },
    },
    {
      path: '/audit/:location?/:item?',
      component: () => import('./stations/audit/AuditPage.vue'),
      props: true,
      meta: { title: 'Audit' },
    },
    {
      path: '/schedules/:id?',
      component: () => import('./schedules/SchedulesPage.vue'),
      props: true,
      meta: { title: 'Schedules' },
    },
    {
      path: '/hand/:task(round|put-away|walk|refill|move|decide|count|receive|load)?/:id?',
      component: () => import('./hand/HandPage.vue'),
      props: true,
      meta: { title: 'In the hand', hand: true },
    },
    {
      path: '/catalog/:sheet?/:row?',
      component: () => import('./catalog/CatalogPage.vue'),
      props: true,
      meta: { title: 'Catalog' },
    },
    { path: '/house', component: () => import('./people/HousePage.vue'), meta: { title: 'House' } },
    {
      path: '/people/events',
      component: () => import('./people/AccessPage.vue'),
      meta: { title: 'Who signed on' },
    },
    {
      path: '/people/:id(\\d+|new)?',
      component: () => import('./people/PeoplePage.vue'),
      props: true,
      meta: { title: 'People' },
    },
    { path: '/reference', component: () => import('./shell/ReferencePage.vue'), meta: { title: 'The API' } },
    { path: '/outbox', component: () => import('./standin/OutboxPage.vue'), meta: { title: 'Outbox' } },
    { path: '/host', component: () => import('./standin/HostPage.vue'), meta: { title: 'Host system' } },
    { path: '/printer', component: () => import('./standin/PrinterPage.vue'), meta: { title: 'Label printer' } },
    { path: '/go/:number', component: () => import('./shell/GoPage.vue'), props: true },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Lantern Row`
})
