<template>
  <HardwareView />
</template>
