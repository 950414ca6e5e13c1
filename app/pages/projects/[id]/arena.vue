<template>
  <ArenaView />
</template>
