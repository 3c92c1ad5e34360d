import { createRouter, createWebHistory } from 'vue-router'
import { BENCHES } from '@/benchNames'

/** Bench, moment (`at`), range (`from`, `to`) and quantity (`show`) are in the address, so that links and reloads keep them. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'first', component: () => import('./first/FirstPage.vue') },
    { path: '/projects/:project(\\d+)', name: 'project', component: () => import('./shell/ProjectDoor.vue') },
    {
      path: '/projects/:project(\\d+)/:scheme(\\d+)',
      redirect: (to) => ({ ...to, name: 'bench', params: { ...to.params, bench: 'surfaces' } }),
    },
    {
      path: `/projects/:project(\\d+)/:scheme(\\d+)/:bench(${BENCHES.join('|')})`,
      name: 'bench',
      component: () => import('./shell/WorkbenchView.vue'),
      props: (to) => ({ project: Number(to.params.project), scheme: Number(to.params.scheme), bench: to.params.bench }),
    },
    { path: '/shared/:token', name: 'shared', component: () => import('./shared/SharedPage.vue'), props: true },
    { path: '/:rest(.*)', component: () => import('./shell/LostPage.vue') },
  ],
})
