import { createRouter, createWebHistory } from 'vue-router'
import { BENCHES } from '@/benchNames'

const workbench = () => import('./shell/WorkbenchView.vue')
// A page that opens on a workbench need not wait for the router to say so.
if (location.pathname.startsWith('/projects/')) void workbench()

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
      component: workbench,
      props: (to) => ({ project: Number(to.params.project), scheme: Number(to.params.scheme), bench: to.params.bench }),
    },
    { path: '/:rest(.*)', component: () => import('./shell/LostPage.vue') },
  ],
})
