import { createRouter, createWebHistory } from 'vue-router'

const workshop = (path: string, name: string, component: () => Promise<unknown>) => ({
  path,
  name,
  component,
})

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'start', component: () => import('./StartPage.vue') },
    { path: '/visited', name: 'visited', component: () => import('./VisitedPage.vue') },
    { path: '/desk', component: () => import('./desk/PanelStart.vue') },
    { path: '/desk/:project/:screen?', name: 'desk', component: () => import('./desk/DeskPage.vue') },
    { path: '/replay/:project/:screen?', name: 'replay', component: () => import('./replay/ReplayPage.vue') },
    { path: '/try/:project/:screen?', name: 'try', component: () => import('./desk/DeskPage.vue') },
    {
      path: '/p/:project',
      component: () => import('./rail/ShellPage.vue'),
      children: [
        { path: '', redirect: { name: 'tags' } },
        workshop('site', 'site', () => import('./stops/site/SiteStop.vue')),
        workshop('devices/:id?', 'devices', () => import('./stops/devices/DevicesStop.vue')),
        workshop('tags/:id?', 'tags', () => import('./stops/tags/TagsStop.vue')),
        workshop('loop-checks', 'register', () => import('./stops/tags/LoopRegister.vue')),
        workshop('screen-map', 'map', () => import('./stops/screens/ScreenMap.vue')),
        workshop('equipment/:id?', 'equipment', () => import('./stops/equipment/EquipmentStop.vue')),
        workshop('screens/:id?/:element?', 'screens', () => import('./stops/screens/ScreensStop.vue')),
        workshop('alarms/:id?', 'alarms', () => import('./stops/alarms/AlarmsStop.vue')),
        workshop('history/:id?', 'history', () => import('./stops/history/HistoryStop.vue')),
        workshop('recipes/:id?', 'recipes', () => import('./stops/recipes/RecipesStop.vue')),
        workshop('people/:id?', 'people', () => import('./stops/people/PeopleStop.vue')),
        workshop('release', 'release', () => import('./stops/release/ReleaseStop.vue')),
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
