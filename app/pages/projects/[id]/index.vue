<template>
  <BenchView />
</template>
