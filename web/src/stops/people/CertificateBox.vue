<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { dayAndTime, moment } from '../../kit/moment'
import { useNotice } from '../../kit/problem'

// What the server shows of itself over HTTPS, to be compared with what a browser shows.
const notice = useNotice()
const { t } = useI18n()
const info = shallowRef<Schemas['CertificateInfo']>()
const sure = ref(false)
const secure = location.protocol === 'https:'
const DAY_MS = 24 * 60 * 60 * 1000
const days = () => Math.floor((new Date(info.value!.until).getTime() - Date.now()) / DAY_MS)
onMounted(async () => {
  if (secure) info.value = await ask(api.GET('/api/certificate')).catch(() => undefined)
})
async function renew() {
  try {
    info.value = await ask(api.POST('/api/certificate'))
    notice.say(t('certificate.renewed'))
  } catch (e) {
    notice.refuse(e)
  }
  sure.value = false
}
</script>

<template>
  <div>
    <h2>{{ $t('certificate.title') }}</h2>
    <p v-if="!secure" class="quiet">{{ $t('certificate.none') }}</p>
    <template v-else-if="info">
      <p>
        {{ $t(info.own ? 'certificate.own' : 'certificate.given') }}
        {{ $t('certificate.until', { at: moment(info.until, dayAndTime), n: days() }) }}
      </p>
      <p class="mono print">{{ info.fingerprint }}</p>
      <p class="quiet">{{ $t('certificate.names', { list: info.names.join(', ') }) }}</p>
      <template v-if="info.own">
        <v-btn v-if="!sure" variant="outlined" @click="sure = true">{{ $t('certificate.renew') }}</v-btn>
        <div v-else class="sure">
          <span>{{ $t('certificate.sure') }}</span>
          <v-btn color="primary" @click="renew">{{ $t('certificate.renew') }}</v-btn>
          <v-btn variant="text" @click="sure = false">{{ $t('common.cancel') }}</v-btn>
        </div>
      </template>
    </template>
  </div>
</template>

<style scoped>
h2 {
  margin-top: 28px;
}
.print {
  max-width: 50ch;
  overflow-wrap: anywhere;
}
.sure {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
</style>
